import type { Recipe } from "../api/client";
import type { Point } from "./mesh";

export type TouchUp = Recipe["edges"]["touch_ups"][number];
export type Donor = Recipe["edges"]["donors"][number];
export type DonorKind = Donor["kind"];

/** What is drawn on the picture: something to touch up, or where new pixels may or must not come from. */
export type Drawing = "touch-up" | DonorKind;

/** What was brushed (with a radius) or drawn around, in corrected pixels. */
export interface Drawn {
  points: readonly Point[];
  radius: number | null;
}

const MOST_POINTS = 400;

const withEdges = (recipe: Recipe, changes: Partial<Recipe["edges"]>): Recipe => ({ ...recipe, edges: { ...recipe.edges, ...changes } });

/** The first number that no area of a list is named by. */
function freeId(list: readonly { id: string }[], letter: string): string {
  let number = 1;
  while (list.some(({ id }) => id === letter + number)) number++;
  return letter + number;
}

/** A drawn line with fewer points, none of them farther off than half a brush, or a pixel. */
export function thinned(points: readonly Point[], radius: number | null): [number, number][] {
  let apart = radius === null ? 1 : Math.max(1, radius / 2);
  const round = ([x, y]: Point): [number, number] => [Math.round(x * 10) / 10, Math.round(y * 10) / 10];
  for (;;) {
    const kept: Point[] = [];
    for (const point of points) {
      const last = kept[kept.length - 1];
      if (!last || Math.hypot(point[0] - last[0], point[1] - last[1]) >= apart) kept.push(point);
    }
    const end = points[points.length - 1];
    if (end && kept[kept.length - 1] !== end) kept.push(end);
    if (kept.length <= MOST_POINTS) return kept.map(round);
    apart *= 2;
  }
}

/** Whether a drawn line encloses or covers anything. */
export const hasArea = ({ points, radius }: Drawn): boolean => (radius === null ? new Set(points.map(String)).size >= 3 : points.length > 0);

export function withDrawn(recipe: Recipe, drawing: Drawing, drawn: Drawn, feather: number): Recipe {
  const area = { points: thinned(drawn.points, drawn.radius), radius: drawn.radius };
  const { touch_ups, donors } = recipe.edges;
  if (drawing === "touch-up")
    return withEdges(recipe, {
      touch_ups: [...touch_ups, { id: freeId(touch_ups, "t"), ...area, feather, amount: 1, active: true, seed: 1, hint: null }],
    });
  return withEdges(recipe, { donors: [...donors, { id: freeId(donors, "d"), kind: drawing, ...area }] });
}

export function withTouchUp(recipe: Recipe, id: string, changes: Partial<TouchUp>): Recipe {
  return withEdges(recipe, { touch_ups: recipe.edges.touch_ups.map((one) => (one.id === id ? { ...one, ...changes } : one)) });
}

export const withoutTouchUp = (recipe: Recipe, id: string): Recipe =>
  withEdges(recipe, { touch_ups: recipe.edges.touch_ups.filter((one) => one.id !== id) });

export const withoutDonor = (recipe: Recipe, id: string): Recipe => withEdges(recipe, { donors: recipe.edges.donors.filter((one) => one.id !== id) });

const moved = <T extends { points: [number, number][] }>(area: T, dx: number, dy: number): T => ({
  ...area,
  points: area.points.map(([x, y]): [number, number] => [x + dx, y + dy]),
});

/** The recipe with one of its areas moved, whichever kind it is. */
export function withMoved(recipe: Recipe, id: string, dx: number, dy: number): Recipe {
  const move = <T extends { id: string; points: [number, number][] }>(one: T): T => (one.id === id ? moved(one, dx, dy) : one);
  return withEdges(recipe, { touch_ups: recipe.edges.touch_ups.map(move), donors: recipe.edges.donors.map(move) });
}

export const withHint = (recipe: Recipe, hint: string | null): Recipe => withEdges(recipe, { hint });

export const withStrips = (recipe: Recipe, strips: number): Recipe => withEdges(recipe, { strips });

/** A frame that was drawn out by hand: what is new in it is filled, unless it is left. */
export function withWidened(recipe: Recipe, rect: Recipe["frame"]["rect"]): Recipe {
  const mode = recipe.edges.mode === "leave" ? "leave" : "fill";
  return withEdges({ ...recipe, frame: { ...recipe.frame, rect, allow_empty: true } }, { mode });
}

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
