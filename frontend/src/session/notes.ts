import type { Recipe, Reference } from "../api/client";

/** What the server noted when it looked for the real edge under a reference. */
export interface SnapNote {
  laid?: Reference["points"];
  clarity?: number;
  moved_px?: number;
  refused?: string;
}

export function snapNote(line: Reference): SnapNote | null {
  return (line["x-snap"] as SnapNote | undefined) ?? null;
}

/** The lens term that the hand has given, or had given last, while something else takes the bending out. */
export const handTerm = ({ lens }: Recipe): number => (lens.source === "manual" ? lens.k1 : ((lens["x-by-hand"] as number | undefined) ?? 0));
