import type { Recipe } from "../api/client";
import type { Point } from "./mesh";

export type TouchUp = Recipe["edges"]["touch_ups"][number];
export type Donor = Recipe["edges"]["donors"][number];
export type DonorKind = Donor["kind"];

/** What was brushed (with a radius) or drawn around, in corrected pixels. */
export interface Drawn {
  points: readonly Point[];
  radius: number | null;
}

/** Whether a drawn line encloses or covers anything. */
export const hasArea = ({ points, radius }: Drawn): boolean => (radius === null ? new Set(points.map(String)).size >= 3 : points.length > 0);

/** What the patch of a touch-up is called. */
export const patchName = (id: string): string => `touch-up ${id}`;

/** The patches of the corners: those that belong to no touch-up. */
export const cornerPatches = (recipe: Recipe) => recipe.edges.patches.filter(({ part }) => !part.startsWith(patchName("")));

/** The patch of a touch-up that still holds for what it is made for. */
export const patchOf = (recipe: Pick<Recipe, "edges">, id: string, madeFor: string | undefined) =>
  recipe.edges.patches.find((patch) => patch.part === patchName(id) && patch.made_for === madeFor);

/** The brush or outline as a path on the stage. */
export function pathOf(points: readonly Point[], closed: boolean): string {
  if (!points.length) return "";
  const only = points.length === 1 ? `h0.01` : "";
  return `M${points.map((point) => point.join(" ")).join("L")}${closed ? "Z" : only}`;
}
