import { readNow } from "../session/session";
import { useKnown } from "../session/useSession";

const FIGURE = /(± ?[\d.]+°|[\d.]+°|[\d.]+%|[\d.]+:[\d.]+)/;

/** The sentence of what is true now; its figures stand out. */
export function Finding() {
  const words = useKnown((known) => readNow(known)?.finding ?? (known.bench ? "" : "Opening the photo…"));
  return words.split(FIGURE).map((part, index) =>
    index % 2 ? (
      <span key={index} className="figure">
        {part}
      </span>
    ) : (
      part
    ),
  );
}
