import { KIND_COLOURS } from "../theme";

export type BuiltKind = keyof typeof KIND_COLOURS;

export const isBuilt = (kind: string): kind is BuiltKind => kind in KIND_COLOURS;

/** The colour of a kind on the picture; every kind has its own end marks as well. */
export const pictureColour = (kind: string) => (isBuilt(kind) ? KIND_COLOURS[kind].picture : "#ffffff");

/** The small sign of a kind beside its name: the same end marks as on the picture. */
export function KindSign({ kind }: { kind: string }) {
  const colour = isBuilt(kind) ? KIND_COLOURS[kind].paper : "#3a3d42";
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

/** The mark at one end of a line on the picture, as a path about (0, 0) for a line that runs along x. */
export function endMark(kind: string): { path: string; filled: boolean } {
  if (kind === "plumb") return { path: "M-7 0L0 -7L7 0L0 7Z", filled: true };
  if (kind === "witness") return { path: "M-5 0a5 5 0 1 0 10 0a5 5 0 1 0 -10 0", filled: false };
  return { path: "M0 -8V8", filled: false };
}
