import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";

import { api, type Problem, type Recipe, type Take, type Takes } from "../../api/client";
import { changeTakes, takesQuery } from "../../api/queries";
import { cornerPatches } from "../../session/areas";
import { baseNow } from "../../session/session";
import { fills, wantedSeeds } from "../../session/takes";
import { useKnown, useSession } from "../../session/useSession";

const FIRST_SEEDS = [1, 2, 3];

/** Whether takes are wanted for the frame as it is kept. */
function useWanted(): boolean {
  const recipe = useKnown(baseNow);
  const kept = useKnown((state) => state.kept);
  const empty = useKnown((state) => state.seen?.frame.empty ?? 0);
  return fills(recipe, empty) && !kept;
}

/** The takes of the frame as it is kept; null until they are known. */
export function useTakes(): Takes | null {
  const queries = useQueryClient();
  const { photo } = useSession();
  const madeFor = useKnown((state) => state.seen?.made_for ?? "");
  const wanted = useWanted();
  const { data } = useQuery(takesQuery(queries, photo, "", madeFor, wanted && madeFor !== ""));
  return data?.made_for === madeFor ? data : null;
}

/** Ask for takes of the corners, or stop one; the server lists those that the recipe wants once they are done. */
export function useAskTakes() {
  const queries = useQueryClient();
  const session = useSession();
  return useMemo(() => {
    const { photo } = session;
    const change = async (request: () => Promise<Takes>) => {
      try {
        return await changeTakes(queries, photo, "", request);
      } catch (problem) {
        session.tell((problem as Problem).message);
        return null;
      }
    };
    return {
      ask: async (seeds: number[]) => {
        const takes = await change(() => api.askTakes(photo, seeds));
        if (takes) session.awaited.add(takes.made_for);
      },
      cancel: (take: Take) => change(() => api.cancelTake(photo, take.id)),
    };
  }, [queries, session]);
}

/** See the recipe in which the takes that were waited for are listed. */
export function useListedTakes() {
  const session = useSession();
  const takes = useTakes();
  const recipe = useKnown(baseNow);
  const wanted = useWanted();
  useEffect(() => {
    if (!wanted || !recipe || !takes || !session.awaited.has(takes.made_for)) return;
    const done = (seed: number) => takes.takes.some((take) => take.seed === seed && take.state === "done");
    if (!wantedSeeds(recipe).every(done)) return;
    session.awaited.delete(takes.made_for);
    const patches = cornerPatches(recipe);
    if (patches.length && patches.every((patch) => patch.made_for === takes.made_for)) return;
    // The server has listed them in the moment they were done.
    void session.refresh();
  }, [session, wanted, recipe, takes]);
}

/** At the step Edges the takes that the recipe wants, and the first three, are made without being asked for. */
export function useFirstTakes(recipe: Recipe | null) {
  const takes = useTakes();
  const wanted = useWanted();
  const { ask } = useAskTakes();
  useEffect(() => {
    if (!recipe || !takes || !wanted) return;
    // An outside painter is asked for no more than is wanted.
    const first = recipe.edges.hint === null ? FIRST_SEEDS : [];
    const missing = [...new Set([...wantedSeeds(recipe), ...first])].filter((seed) => !takes.takes.some((take) => take.seed === seed));
    if (missing.length) void ask(missing);
  }, [takes, wanted, recipe, ask]);
}
