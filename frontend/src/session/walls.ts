import type { Recipe, Reference } from "../api/client";
import { type Mesh, toCorrected } from "./mesh";

/** The two plumb lines whose middle is meant: those that were chosen, while they stand, else the first two. */
export function wallsOf(recipe: Recipe, chosen: readonly [string, string] | null): readonly [Reference, Reference] | null {
  const plumbs = recipe.references.filter(({ kind }) => kind === "plumb");
  const found = chosen?.map((id) => plumbs.find((one) => one.id === id)) ?? [];
  const [one = plumbs[0], other = plumbs.find((each) => each !== one)] = found;
  return one && other && one !== other ? [one, other] : null;
}

/** x of the middle between two lines, in corrected pixels. */
export function middleBetween(mesh: Mesh, walls: readonly [Reference, Reference]): number {
  const middle = ({ points }: Reference) => points.reduce((sum, point) => sum + toCorrected(mesh, point)[0], 0) / points.length;
  return (middle(walls[0]) + middle(walls[1])) / 2;
}
