import type { ReactNode } from "react";

import { goTo } from "./path";

/** A link to another screen, without a reload. */
export function Go({ to, className, children }: { to: string; className?: string; children: ReactNode }) {
  return (
    <a
      href={to}
      className={className}
      onClick={(event) => {
        event.preventDefault();
        goTo(to);
      }}
    >
      {children}
    </a>
  );
}
