import { type CSSProperties, type RefObject, useLayoutEffect, useRef } from "react";

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

/**
 * The same for several words within one element: each is written into the place that has its name in `data-live`. What is
 * true or not becomes an attribute of the element.
 */
export function useLive<Place extends HTMLElement>(of: (known: Known) => Record<string, string | boolean | undefined>): RefObject<Place | null> {
  const { known } = useSession();
  const element = useRef<Place>(null);
  useLayoutEffect(() => {
    const write = () => {
      const root = element.current;
      if (!root) return;
      for (const [name, words = ""] of Object.entries(of(known.getState()))) {
        if (typeof words === "boolean") {
          root.toggleAttribute(`data-${name}`, words);
          continue;
        }
        const place = root.querySelector(`[data-live=${name}]`);
        if (place && place.textContent !== words) place.textContent = words;
      }
    };
    write();
    return known.subscribe(write);
  });
  return element;
}
