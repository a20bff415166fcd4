import { useEffect } from "react";

import { Mark } from "./Brand";
import { Go } from "./Go";

/** The head of a page beside the photos: what it is, and the way back. */
export function PageHead({ name, title = name }: { name: string; title?: string }) {
  useEffect(() => {
    document.title = `${name} · Sequor`;
  }, [name]);
  return (
    <header className="route sheet-head">
      <div className="route-title" style={{ borderBottom: 0, width: "auto" }}>
        <Mark />
        <div>
          <strong>{title}</strong>
          <nav aria-label="Photos" style={{ fontSize: "0.75rem" }}>
            <Go to="/">Contact sheet</Go>
          </nav>
        </div>
      </div>
    </header>
  );
}
