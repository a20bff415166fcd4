import { useState } from "react";

import { Touch } from "../parts/Touch";
import { readNow } from "../session/session";
import { useKnown } from "../session/useSession";

const FIGURE = /(± ?[\d.]+°|[\d.]+°|[\d.]+%|[\d.]+:[\d.]+)/;

/** The sentence of what is true now, in one line; its figures stand out. Pressed, all of it is shown. */
export function Finding() {
  const words = useKnown((known) => readNow(known)?.finding ?? (known.bench ? "" : "Opening the photo…"));
  const [open, setOpen] = useState(false);
  return (
    <>
      <div role="status" data-finding className="finding-say" data-open={open || undefined} title={words} onClick={() => setOpen(!open)}>
        {words.split(FIGURE).map((part, index) =>
          index % 2 ? (
            <span key={index} className="figure">
              {part}
            </span>
          ) : (
            part
          ),
        )}
      </div>
      <Touch aria-expanded={open} aria-label={open ? "Less of the finding" : "More of the finding"} onClick={() => setOpen(!open)}>
        {open ? "Less" : "More"}
      </Touch>
    </>
  );
}
