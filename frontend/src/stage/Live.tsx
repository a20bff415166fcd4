import { type CSSProperties, useLayoutEffect, useRef } from "react";

import type { Known } from "../session/session";
import { useSession } from "../session/useSession";

interface Props {
  /** The words, of what is known now. */
  of: (known: Known) => string | undefined;
  className?: string;
  style?: CSSProperties;
  /** Whether all of the words can be had by pointing, where there may not be room for them. */
  titled?: boolean;
}

/** Words that follow the hand: they are written where they stand, and nothing is drawn anew for it. */
export function Live({ of, className, style, titled }: Props) {
  const { known } = useSession();
  const element = useRef<HTMLSpanElement>(null);
  useLayoutEffect(() => {
    const write = () => {
      const words = of(known.getState()) ?? "";
      const place = element.current;
      if (!place || place.textContent === words) return;
      place.textContent = words;
      if (titled) place.title = words;
    };
    write();
    return known.subscribe(write);
  });
  return <span ref={element} className={className} style={style} />;
}
