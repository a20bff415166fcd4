import type { Recipe, Take, Takes } from "../api/client";
import { patchOf } from "./areas";

/** What of a touch-up is laid over the picture. */
export interface Over {
  id: string;
  box: readonly [number, number, number, number];
  source: string;
  reduced: number;
  amount: number;
}

/** The takes of touch-ups by their ids. */
export type KnownTakes = Readonly<Record<string, Takes | undefined>>;

/** The take that a touch-up shows, as far as it is known for what it is made for. */
export const ownTake = (known: KnownTakes, madeFor: Record<string, string>, { id, seed }: { id: string; seed: number }): Take | undefined =>
  known[id]?.made_for === madeFor[id] ? known[id]?.takes.find((take) => take.seed === seed) : undefined;

/** The touch-ups that are made, listed or not; `pointed`: a take that is looked at in place of its own. */
export function laidOver(
  recipe: Pick<Recipe, "edges">,
  madeFor: Record<string, string>,
  known: KnownTakes,
  sharpest: number,
  pointed: { id: string; take: Take } | null,
): Over[] {
  return recipe.edges.touch_ups.flatMap((one): Over[] => {
    const { id, active, amount } = one;
    const taken = (pointed?.id === id ? pointed.take : undefined) ?? ownTake(known, madeFor, one);
    const made = taken?.parts[0];
    const patch = made?.sha256 ? { sha256: made.sha256, box: made.box } : patchOf(recipe, id, madeFor[id]);
    if (!active || !patch) return [];
    return [{ id, box: patch.box, source: `/api/patches/${patch.sha256}/${sharpest}.png?over`, reduced: sharpest, amount }];
  });
}

/** The touch-ups that are on and for which the recipe lists no patch that holds. */
export const unlisted = (recipe: Recipe, madeFor: Record<string, string>) =>
  recipe.edges.touch_ups.filter(({ id, active, seed }) => active && patchOf(recipe, id, madeFor[id])?.seed !== seed);

