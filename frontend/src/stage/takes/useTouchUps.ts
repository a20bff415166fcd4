import { useQueries, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo } from "react";

import { api, Problem, type Take, type Takes } from "../../api/client";
import { changeTakes, takesQuery } from "../../api/queries";
import { patchOf } from "../../session/areas";
import { baseNow } from "../../session/session";
import { type KnownTakes, ownTake, unlisted } from "../../session/touchUps";
import { useDesk, useKnown, useSession } from "../../session/useSession";

const NONE: Record<string, string> = {};

/** The takes of touch-ups by their ids: of those that are not listed yet, and of the one that is chosen. */
export function useTouchTakes(): KnownTakes {
  const queries = useQueryClient();
  const { photo } = useSession();
  const recipe = useKnown(baseNow);
  const settled = useKnown((state) => state.kept === null);
  const madeFor = useKnown((state) => state.seen?.touch_ups ?? NONE);
  const area = useDesk((desk) => desk.area);
  const wanted = useMemo(() => {
    const ids = recipe ? unlisted(recipe, madeFor).map(({ id }) => id) : [];
    if (area && !ids.includes(area) && area in madeFor) ids.push(area);
    return ids.filter((id) => madeFor[id] !== undefined);
  }, [recipe, madeFor, area]);
  return useQueries({
    queries: wanted.map((id) => takesQuery(queries, photo, id, madeFor[id] ?? "", settled)),
    combine: useCallback((found: { data: Takes | undefined }[]) => Object.fromEntries(wanted.map((id, at) => [id, found[at]?.data])), [wanted]),
  });
}

/** Ask for takes of touch-ups, or stop one. */
export function useAskTouchTakes() {
  const queries = useQueryClient();
  const session = useSession();
  return useMemo(() => {
    const { photo } = session;
    const change = async (id: string, request: () => Promise<Takes>) => {
      try {
        await changeTakes(queries, photo, id, request);
      } catch (problem) {
        // It may have been removed meanwhile.
        if (problem instanceof Problem && problem.status !== 422) session.tell(problem.message);
      }
    };
    return {
      ask: (id: string, seeds: number[]) => change(id, () => api.askTakes(photo, seeds, id)),
      cancel: (id: string, take: Take) => change(id, () => api.cancelTake(photo, take.id, id)),
    };
  }, [queries, session]);
}

/** Let touch-ups be made that are not, one after another, and see the recipe in which what was made is listed. */
export function useMadeTouchUps() {
  const session = useSession();
  const { ask } = useAskTouchTakes();
  const known = useTouchTakes();
  const recipe = useKnown(baseNow);
  const kept = useKnown((state) => state.kept);
  const madeFor = useKnown((state) => state.seen?.touch_ups ?? NONE);
  const open = recipe && !kept ? unlisted(recipe, madeFor) : [];
  const next = open.find((one) => known[one.id]?.made_for === madeFor[one.id] && madeFor[one.id] !== undefined && !ownTake(known, madeFor, one));
  const done = open.find((one) => session.awaited.has(madeFor[one.id] ?? "") && ownTake(known, madeFor, one)?.state === "done");
  const [id, seed, key] = next ? [next.id, next.seed, madeFor[next.id] ?? ""] : [null, 0, ""];
  const ready = done ? (madeFor[done.id] ?? null) : null;

  useEffect(() => {
    // One that failed is not begun again by looking, nor is one asked for twice.
    if (id === null || session.awaited.has(`${key} ${seed}`)) return;
    session.awaited.add(key).add(`${key} ${seed}`);
    void ask(id, [seed]);
  }, [id, key, seed, ask, session]);

  useEffect(() => {
    if (ready === null || !session.awaited.delete(ready)) return;
    // The server has listed it in the moment it was done.
    void session.refresh();
  }, [session, ready]);
}

/** Whether a touch-up is made as the recipe wants it. */
export const isMade = (recipe: Parameters<typeof patchOf>[0], one: { id: string; seed: number }, key: string | undefined, takes: readonly Take[]): boolean =>
  patchOf(recipe, one.id, key)?.seed === one.seed || takes.some(({ seed, state }) => seed === one.seed && state === "done");
