import type { Recipe, Reference } from "../api/client";
import type { LayKind } from "./benchStore";
import type { Point } from "./mesh";

/** The kind of a line that was laid "by its slope": what it looks nearer to. Only a default; it can be changed. */
export function kindFor(kind: LayKind, a: Point, b: Point): Reference["kind"] {
  if (kind !== "slope") return kind;
  return Math.abs(b[1] - a[1]) > Math.abs(b[0] - a[0]) ? "plumb" : "level";
}

/** The recipe with other lines: the angles are to be solved anew. */
export function withReferences(recipe: Recipe, references: Reference[]): Recipe {
  return { ...recipe, references, correction: { ...recipe.correction, roll: null, pitch: null, yaw: null } };
}

export function newReference(recipe: Recipe, kind: Reference["kind"], a: Point, b: Point, sigma: number): Reference {
  const taken = new Set(recipe.references.map((one) => one.id));
  let number = recipe.references.length + 1;
  while (taken.has(`r${number}`)) number++;
  const points: Reference["points"] = [round(a), round(b)];
  return { id: `r${number}`, kind, points, sigma_px: sigma, group: null, shape: null, weight: 1, active: true };
}

/** Move one end (0 or 1) of a line, or the whole ("all"), by a distance in photo pixels. */
export function movedLine(line: Reference, part: 0 | 1 | "all", dx: number, dy: number, sigma: number): Reference {
  const points = line.points.map(([x, y], index) =>
    part === "all" || part === index ? round([x + dx, y + dy]) : ([x, y] as [number, number]),
  );
  return { ...line, points, sigma_px: sigma };
}

export function replaced(recipe: Recipe, line: Reference): Recipe {
  return withReferences(
    recipe,
    recipe.references.map((one) => (one.id === line.id ? line : one)),
  );
}

/** The hand's part in degrees when what is taken out changes by a difference. */
export function handFor(recipe: Recipe, by: number): number {
  return Math.min(45, Math.max(-45, Math.round((recipe.correction.by_hand.roll + by) * 1e4) / 1e4));
}

export function withHand(recipe: Recipe, roll: number): Recipe {
  const { correction } = recipe;
  return { ...recipe, correction: { ...correction, by_hand: { ...correction.by_hand, roll } } };
}

export function withRollOn(recipe: Recipe, on: boolean): Recipe {
  const { correction } = recipe;
  const by_hand = { ...correction.by_hand, roll: on ? correction.by_hand.roll : 0 };
  return { ...recipe, correction: { ...correction, by_hand, on: { ...correction.on, roll: on } } };
}

export function withRect(recipe: Recipe, rect: Recipe["frame"]["rect"]): Recipe {
  return { ...recipe, frame: { ...recipe.frame, rect } };
}

function round([x, y]: Point): [number, number] {
  return [Math.round(x * 100) / 100, Math.round(y * 100) / 100];
}
