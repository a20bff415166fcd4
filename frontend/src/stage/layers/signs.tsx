import type { Kind } from "../../api/client";
import { KIND_COLOURS } from "../../parts/theme";

export const KINDS = Object.keys(KIND_COLOURS) as Kind[];

/** What each kind is called. */
export const KIND_NAMES: Record<Kind, string> = {
  level: "horizontal",
  plumb: "vertical",
  receding: "receding",
  straight: "straight edge",
  rectangle: "rectangle",
  witness: "check line",
};

/** The colour of a kind on the picture; every kind has its own end marks and line pattern as well. */
export const pictureColour = (kind: Kind | "slope") => KIND_COLOURS[kind === "slope" ? "witness" : kind].picture;
export const paperColour = (kind: Kind) => KIND_COLOURS[kind].paper;

/** How a kind's line is dashed on the picture. */
export const dashOf = (kind: Kind): string | undefined =>
  ({ witness: "9 6", receding: "18 7", level: undefined, plumb: undefined, straight: undefined, rectangle: undefined })[kind];

/** The small sign of a kind beside its name: the same end marks as on the picture. */
export function kindSign(kind: Kind) {
  const colour = paperColour(kind);
  const common = { stroke: colour, strokeWidth: 2, fill: "none" };
  return (
    <svg width="28" height="18" viewBox="0 0 28 18" aria-hidden="true" style={{ flex: "none" }}>
      {kind === "level" && <path d="M4 9h20M4 4v10M24 4v10" {...common} />}
      {kind === "plumb" && (
        <>
          <path d="M14 1v10" {...common} />
          <path d="M14 8l4 4.5-4 4.5-4-4.5z" fill={colour} />
        </>
      )}
      {kind === "receding" && <path d="M7 9h4M14 9h5M3 4l4 5-4 5M20 4l4 5-4 5" {...common} />}
      {kind === "straight" && (
        <>
          <path d="M4 12Q14 3 24 12" {...common} />
          <path d="M1.5 12a2.5 2.5 0 1 0 5 0a2.5 2.5 0 1 0-5 0M11.5 7.5a2.5 2.5 0 1 0 5 0a2.5 2.5 0 1 0-5 0M21.5 12a2.5 2.5 0 1 0 5 0a2.5 2.5 0 1 0-5 0" fill={colour} />
        </>
      )}
      {kind === "rectangle" && <path d="M4 7V3h5M19 3h5v4M24 11v4h-5M9 15H4v-4" {...common} />}
      {kind === "witness" && (
        <>
          <path d="M8 9h12" strokeDasharray="4 3" {...common} />
          <circle cx="5" cy="9" r="3" {...common} />
          <circle cx="23" cy="9" r="3" {...common} />
        </>
      )}
    </svg>
  );
}

const MARKS: Record<Kind, { path: string; filled: boolean }> = {
  level: { path: "M0 -8V8", filled: false },
  plumb: { path: "M-7 0L0 -7L7 0L0 7Z", filled: true },
  receding: { path: "M-6 -7L2 0L-6 7", filled: false },
  straight: { path: "M-4 0a4 4 0 1 0 8 0a4 4 0 1 0 -8 0", filled: true },
  rectangle: { path: "M9 0H0V9", filled: false },
  witness: { path: "M-5 0a5 5 0 1 0 10 0a5 5 0 1 0 -10 0", filled: false },
};

/** The mark at a point of a reference, as a path about (0, 0) for a line that leaves the point along x. */
export const endMark = (kind: Kind) => MARKS[kind];
