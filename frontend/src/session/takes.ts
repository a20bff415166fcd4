import type { Recipe, Take, Takes } from "../api/client";
import { cornerPatches } from "./areas";
import { noticed } from "./shares";

/** Whether the frame has empty corners that are filled. */
export function fills(recipe: Recipe | null, empty: number): boolean {
  return recipe?.edges.mode === "fill" && noticed(empty);
}

/** The takes of a recipe's frame that it shows: by their seeds, each once. */
export function wantedSeeds(recipe: Recipe): number[] {
  return [...new Set([recipe.edges.seed, ...cornerPatches(recipe).map(({ seed }) => seed)])];
}

/** The parts of the empty area, once a worker has found them. */
export const emptyParts = (takes: Takes): Take["parts"] => takes.takes.find(({ parts }) => parts.length)?.parts ?? [];

/** The take that a part of the empty area shows. */
export const seedFor = (recipe: Pick<Recipe, "edges">, part: string): number => recipe.edges.patches.find((one) => one.part === part)?.seed ?? recipe.edges.seed;

/** What is laid into one part of the empty area: the picture's address and by how much it is reduced. */
export interface Laid {
  part: string;
  box: readonly [number, number, number, number];
  source: string;
  reduced: number;
}

/** The pictures of the takes that a recipe shows; null where there is none for one of the parts yet. */
export function laidParts(
  recipe: Pick<Recipe, "edges">,
  takes: Takes,
  photo: number,
  sharpest: number,
  pointed: { seed: number; part: string | null } | null,
): Laid[] | null {
  const parts = emptyParts(takes);
  if (!parts.length) return null;
  const laid = parts.map(({ part, box }, at): Laid | null => {
    const seed = pointed && (pointed.part === null || pointed.part === part) ? pointed.seed : seedFor(recipe, part);
    const take = takes.takes.find((one) => one.seed === seed);
    const made = take?.parts.find((one) => one.part === part)?.sha256;
    if (made) return { part, box, source: `/api/patches/${made}/${sharpest}.png`, reduced: sharpest };
    if (!take?.rough) return null;
    return { part, box, source: `/api/photos/${photo}/takes/${take.id}/first-look-${at}.png`, reduced: take.rough };
  });
  return laid.every((one) => one !== null) ? laid : null;
}

/** The same from what a recipe lists, without asking; null where something is stale or missing. */
export function listedParts(recipe: Recipe, madeFor: string, sharpest: number): Laid[] | null {
  const patches = cornerPatches(recipe);
  if (!patches.length || patches.some((patch) => patch.made_for !== madeFor)) return null;
  return patches.map(({ part, box, sha256 }) => ({ part, box, source: `/api/patches/${sha256}/${sharpest}.png`, reduced: sharpest }));
}

/** The coarsest reduction that is still sharp at a zoom. */
export function sharpestAt(scale: number): number {
  let reduced = 1;
  while (reduced < 64 && reduced * 2 * scale <= 1) reduced *= 2;
  return reduced;
}
