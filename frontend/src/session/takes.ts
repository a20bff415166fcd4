import { useEffect } from "react";

import { api, Problem, type Recipe, type Take, type Takes } from "../api/client";
import { noticed } from "./shares";
import { cornerPatches } from "./areas";
import { baseNow, openSession, refresh, useBench } from "./benchStore";
import { seedFor } from "./recipeEdits";

const POLL_MS = 250;
const FIRST_SEEDS = [1, 2, 3];

export const unfinished = ({ state }: Take): boolean => state === "waiting" || state === "running";

/** Whether the frame has empty corners that are filled. */
export function fills(recipe: Recipe | null, empty: number): boolean {
  return recipe?.edges.mode === "fill" && noticed(empty);
}

let asked: string | null = null;
let turn: Promise<unknown> = Promise.resolve();

/** One request about takes after another, so that the newest answer is the last to be shown. */
function inTurn(request: (photo: number) => Promise<Takes>): Promise<void> {
  const { photo } = openSession();
  const here = () => openSession().photo === photo;
  const next = turn.then(async () => {
    if (!here()) return;
    try {
      const takes = await request(photo);
      if (!here()) return;
      // A notice stays until what it speaks of has been done.
      const before = useBench.getState().takes;
      const waits = takes.takes.some(({ state }) => state === "waiting");
      useBench.setState({ takes: { ...takes, notice: takes.notice ?? (waits ? (before?.notice ?? null) : null) } });
    } catch (problem) {
      if (problem instanceof Problem && here()) useBench.setState({ notice: problem.message });
    }
  });
  turn = next;
  return next;
}

export const loadTakes = () => inTurn((photo) => api.takes(photo));

/** Let takes be made; the server lists those that the recipe wants in it once they are done. */
export async function askTakes(seeds: number[]) {
  await inTurn(async (photo) => {
    const takes = await api.askTakes(photo, seeds);
    asked = takes.made_for;
    return takes;
  });
}

export const cancelTake = (take: Take) => inTurn((photo) => api.cancelTake(photo, take.id));

/** The takes of a recipe's frame that it shows: by their seeds, each once. */
export function wantedSeeds(recipe: Recipe): number[] {
  return [...new Set([recipe.edges.seed, ...cornerPatches(recipe).map(({ seed }) => seed)])];
}

/** Keep the takes of the present frame in sight, and see the recipe in which those that were waited for are listed. */
export function useTakes() {
  const recipe = useBench(baseNow);
  const photo = useBench((state) => state.bench?.photo.id);
  const kept = useBench((state) => state.kept);
  const madeFor = useBench((state) => state.seen?.made_for);
  const empty = useBench((state) => state.seen?.frame.empty ?? 0);
  const takes = useBench((state) => state.takes);
  const wanted = fills(recipe, empty) && !kept;

  useEffect(() => {
    if (wanted && photo !== undefined && takes?.made_for !== madeFor) void loadTakes();
    // What was answered does not ask again: only another frame does.
  }, [wanted, photo, madeFor]); // eslint-disable-line react-hooks/exhaustive-deps

  useEffect(() => {
    if (!wanted || !takes?.takes.some(unfinished)) return;
    const timer = setTimeout(() => void loadTakes(), POLL_MS);
    return () => clearTimeout(timer);
  }, [wanted, takes]);

  useEffect(() => {
    if (!wanted || !recipe || !takes || takes.made_for !== madeFor || asked !== madeFor) return;
    const done = (seed: number) => takes.takes.some((take) => take.seed === seed && take.state === "done");
    if (!wantedSeeds(recipe).every(done)) return;
    asked = null;
    const patches = cornerPatches(recipe);
    if (patches.length && patches.every((patch) => patch.made_for === madeFor)) return;
    // The server has listed them in the moment they were done.
    void refresh();
  }, [wanted, recipe, takes, madeFor]);
}

/** At the step Edges the takes that the recipe wants, and the first three, are made without being asked for. */
export function useFirstTakes(recipe: Recipe | null, madeFor: string | undefined, empty: number) {
  const found = useBench((state) => state.takes);
  const kept = useBench((state) => state.kept);
  const takes = fills(recipe, empty) && found?.made_for === madeFor ? found : null;
  useEffect(() => {
    if (!recipe || !takes || kept) return;
    // An outside painter is asked for no more than is wanted.
    const first = recipe.edges.hint === null ? FIRST_SEEDS : [];
    const missing = [...new Set([...wantedSeeds(recipe), ...first])].filter((seed) => !takes.takes.some((take) => take.seed === seed));
    if (missing.length) void askTakes(missing);
  }, [takes, kept, recipe]);
}

/** The parts of the empty area, once a worker has found them. */
export const emptyParts = (takes: Takes): Take["parts"] => takes.takes.find(({ parts }) => parts.length)?.parts ?? [];

/** What is laid into one part of the empty area: the picture's address and by how much it is reduced. */
export interface Laid {
  part: string;
  box: readonly [number, number, number, number];
  source: string;
  reduced: number;
}

/** The pictures of the takes that a recipe shows; null where there is none for one of the parts yet. */
export function laidParts(
  recipe: Recipe,
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
