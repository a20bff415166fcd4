import { useEffect } from "react";

import { api, Problem, type Recipe, type Take, type Takes } from "../api/client";
import { patchName, patchOf } from "./areas";
import { baseNow, keep, useBench } from "./benchStore";
import { unfinished } from "./takes";

const POLL_MS = 250;

/** What of a touch-up is laid over the picture. */
export interface Over {
  id: string;
  box: readonly [number, number, number, number];
  source: string;
  reduced: number;
  amount: number;
}

/** The touch-ups of a recipe that are made and hold; `pointed`: a take that is looked at in place of its own. */
export function laidOver(
  recipe: Recipe,
  madeFor: Record<string, string>,
  sharpest: number,
  pointed: { id: string; take: Take } | null,
): Over[] {
  return recipe.edges.touch_ups.flatMap(({ id, active, amount }): Over[] => {
    const own = patchOf(recipe, id, madeFor[id]);
    const looked = pointed?.id === id ? pointed.take.parts[0] : null;
    const patch = looked?.sha256 ? { sha256: looked.sha256, box: looked.box } : own;
    if (!active || !patch) return [];
    return [{ id, box: patch.box, source: `/api/patches/${patch.sha256}/${sharpest}.png?over`, reduced: sharpest, amount }];
  });
}

/** The recipe with another take of a touch-up. */
export function withTouchTake(recipe: Recipe, id: string, take: Take, madeFor: string): Recipe {
  const { sha256, box } = take.parts[0]!;
  const patch = { sha256: sha256!, part: patchName(id), box, seed: take.seed, made_for: madeFor };
  const patches = [...recipe.edges.patches.filter(({ part }) => part !== patch.part), patch];
  const touch_ups = recipe.edges.touch_ups.map((one) => (one.id === id ? { ...one, seed: take.seed } : one));
  return { ...recipe, edges: { ...recipe.edges, patches, touch_ups } };
}

/** The first touch-up that is on and not made as it is now. */
export function toBeMade(recipe: Recipe, madeFor: Record<string, string>): { id: string; seed: number } | null {
  const open = recipe.edges.touch_ups.find(({ id, active, seed }) => active && patchOf(recipe, id, madeFor[id])?.seed !== seed);
  return open ? { id: open.id, seed: open.seed } : null;
}

let turn: Promise<unknown> = Promise.resolve();

/** One request about the takes of touch-ups after another. */
function inTurn(id: string, request: (photo: number) => Promise<Takes>): Promise<void> {
  const next = turn.then(async () => {
    const { bench } = useBench.getState();
    if (!bench) return;
    try {
      const takes = await request(bench.photo.id);
      if (useBench.getState().bench?.photo.id === bench.photo.id)
        useBench.setState(({ touchTakes }) => ({ touchTakes: { ...touchTakes, [id]: takes } }));
    } catch (problem) {
      // It may have been removed meanwhile.
      if (problem instanceof Problem && problem.status !== 422) useBench.setState({ notice: problem.message });
    }
  });
  turn = next;
  return next;
}

export const loadTouchTakes = (id: string) => inTurn(id, (photo) => api.takes(photo, id));
export const askTouchTakes = (id: string, seeds: number[]) => inTurn(id, (photo) => api.askTakes(photo, seeds, id));
export const cancelTouchTake = (id: string, take: Take) => inTurn(id, (photo) => api.cancelTake(photo, take.id, id));

/** Let touch-ups be made that are not, one after another, and list in the recipe what was made. */
export function useTouchUps() {
  const recipe = useBench(baseNow);
  const kept = useBench((state) => state.kept);
  const madeFor = useBench((state) => state.seen?.touch_ups);
  const touchTakes = useBench((state) => state.touchTakes);
  const open = recipe && madeFor && !kept ? toBeMade(recipe, madeFor) : null;
  const { id, seed } = open ?? { id: null, seed: 0 };
  const key = id ? madeFor?.[id] : undefined;
  const takes = id ? touchTakes[id] : undefined;
  const known = takes && takes.made_for === key ? takes : null;
  const take = known?.takes.find((one) => one.seed === seed);

  useEffect(() => {
    if (!id || !key) return;
    // One that failed is not begun again by looking.
    if (!known) void loadTouchTakes(id);
    else if (!take) void askTouchTakes(id, [seed]);
  }, [id, key, seed, known === null]); // eslint-disable-line react-hooks/exhaustive-deps

  useEffect(() => {
    // More takes may be on their way for one that is made.
    const waiting = Object.keys(touchTakes).find((one) => madeFor?.[one] === touchTakes[one]!.made_for && touchTakes[one]!.takes.some(unfinished));
    if (!waiting) return;
    const timer = setTimeout(() => void loadTouchTakes(waiting), POLL_MS);
    return () => clearTimeout(timer);
  }, [touchTakes, madeFor]);

  useEffect(() => {
    if (!id || take?.state !== "done") return;
    void keep((now) => now, `Touch-up ${id.slice(1)} made`);
  }, [id, key, take?.state]);
}
