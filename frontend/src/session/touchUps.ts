import { useEffect } from "react";

import { api, Problem, type Recipe, type Take, type Takes } from "../api/client";
import { patchName, patchOf } from "./areas";
import { baseNow, openSession, refresh, useBench } from "./benchStore";
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

/** The takes of touch-ups by their ids. */
type Known = Record<string, Takes>;

/** The take that a touch-up shows, as far as it is known for what it is made for. */
export const ownTake = (known: Known, madeFor: Record<string, string>, { id, seed }: { id: string; seed: number }): Take | undefined =>
  known[id]?.made_for === madeFor[id] ? known[id]?.takes.find((take) => take.seed === seed) : undefined;

/** The touch-ups that are made, listed or not; `pointed`: a take that is looked at in place of its own. */
export function laidOver(
  recipe: Recipe,
  madeFor: Record<string, string>,
  known: Known,
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

/** The recipe with another take of a touch-up. */
export function withTouchTake(recipe: Recipe, id: string, take: Take, madeFor: string): Recipe {
  const { sha256, box } = take.parts[0]!;
  const patch = { sha256: sha256!, part: patchName(id), box, seed: take.seed, made_for: madeFor };
  const patches = [...recipe.edges.patches.filter(({ part }) => part !== patch.part), patch];
  const touch_ups = recipe.edges.touch_ups.map((one) => (one.id === id ? { ...one, seed: take.seed } : one));
  return { ...recipe, edges: { ...recipe.edges, patches, touch_ups } };
}

/** The touch-ups that are on and for which the recipe lists no patch that holds. */
export const unlisted = (recipe: Recipe, madeFor: Record<string, string>) =>
  recipe.edges.touch_ups.filter(({ id, active, seed }) => active && patchOf(recipe, id, madeFor[id])?.seed !== seed);

let turn: Promise<unknown> = Promise.resolve();

/** One request about the takes of touch-ups after another. */
function inTurn(id: string, request: (photo: number) => Promise<Takes>): Promise<void> {
  const { photo } = openSession();
  const here = () => openSession().photo === photo;
  const next = turn.then(async () => {
    if (!here()) return;
    try {
      const takes = await request(photo);
      if (here()) useBench.setState(({ touchTakes }) => ({ touchTakes: { ...touchTakes, [id]: takes } }));
    } catch (problem) {
      // It may have been removed meanwhile.
      if (problem instanceof Problem && problem.status !== 422 && here()) useBench.setState({ notice: problem.message });
    }
  });
  turn = next;
  return next;
}

export const loadTouchTakes = (id: string) => inTurn(id, (photo) => api.takes(photo, id));
export const askTouchTakes = (id: string, seeds: number[]) => inTurn(id, (photo) => api.askTakes(photo, seeds, id));
export const cancelTouchTake = (id: string, take: Take) => inTurn(id, (photo) => api.cancelTake(photo, take.id, id));

/** What was asked for and is listed once it is done; what an undo has taken back is not. */
const asked = new Set<string>();

/** Let touch-ups be made that are not, and see the recipe in which what was made is listed. */
export function useTouchUps() {
  const recipe = useBench(baseNow);
  const kept = useBench((state) => state.kept);
  const madeFor = useBench((state) => state.seen?.touch_ups);
  const known = useBench((state) => state.touchTakes);
  const open = recipe && madeFor && !kept ? unlisted(recipe, madeFor) : [];
  const next = open.find((one) => !ownTake(known, madeFor!, one));
  const [id, seed, key] = next ? [next.id, next.seed, madeFor![next.id]!] : [null, 0, ""];
  const looked = id !== null && known[id]?.made_for === key;
  const done = open.find((one) => asked.has(madeFor![one.id]!) && ownTake(known, madeFor!, one)?.state === "done");
  const [ready, readyKey] = done ? [done.id, madeFor![done.id]!] : [null, ""];

  useEffect(() => {
    if (id === null) return;
    // One that failed is not begun again by looking.
    if (!looked) void loadTouchTakes(id);
    else {
      asked.add(key);
      void askTouchTakes(id, [seed]);
    }
  }, [id, key, seed, looked]);

  useEffect(() => {
    // More takes may be on their way for one that is made.
    const waiting = Object.keys(known).find((one) => madeFor?.[one] === known[one]!.made_for && known[one]!.takes.some(unfinished));
    if (!waiting) return;
    const timer = setTimeout(() => void loadTouchTakes(waiting), POLL_MS);
    return () => clearTimeout(timer);
  }, [known, madeFor]);

  useEffect(() => {
    if (ready === null || !asked.delete(readyKey)) return;
    // The server has listed it in the moment it was done.
    void refresh();
  }, [ready, readyKey]);
}
