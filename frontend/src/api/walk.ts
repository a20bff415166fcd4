import { create } from "zustand";

import { api, type Photo, type ReviewExtent, wordsOf } from "./client";

/** What was done with a photo on the walk. */
export type Done = "taken" | "left" | "turned" | "adjusted" | "not saved";

interface Walk {
  /** The photos that want a pair of eyes, the least sure first. */
  photos: number[];
  /** Which of them is looked at. */
  at: number;
  done: Record<number, Done>;
  trouble: string | null;
  begin: (photos: number[]) => void;
  goTo: (at: number) => void;
  /** Take what was found, turn the picture; the next one is there at once, while it is saved. */
  take: (photo: Photo, extent: ReviewExtent["extent"], turn: number) => void;
  leave: (photo: Photo) => void;
  /** It was put on the bench. */
  adjust: (id: number) => void;
  /** One back: what was done last is as before. */
  undo: () => Promise<void>;
  /** Until all that was done is saved, or was refused. */
  saved: () => Promise<unknown>;
}

/** What was done, in its order, and what takes it back once it was saved. */
interface Step {
  at: number;
  id: number;
  saved: Promise<(() => Promise<unknown>) | null>;
}

/** The walk through photos that want a pair of eyes; it stays while one of them is on the bench. */
export const useWalk = create<Walk>((set, get) => {
  let steps: Step[] = [];
  const onward = (id: number, done: Done) => set(({ at, photos, done: before }) => ({ at: Math.min(at + 1, photos.length), done: { ...before, [id]: done } }));
  const begin = (id: number, done: Done, work: () => Promise<() => Promise<unknown>>) => {
    const saved = work().catch((problem: unknown) => {
      set(({ done }) => ({ trouble: wordsOf(problem), done: { ...done, [id]: "not saved" } }));
      return null;
    });
    steps.push({ at: get().at, id, saved });
    onward(id, done);
  };
  return {
    photos: [],
    at: 0,
    done: {},
    trouble: null,
    begin: (photos) => {
      steps = [];
      set({ photos, at: 0, done: {}, trouble: null });
    },
    goTo: (at) => set(({ photos }) => ({ at: Math.min(photos.length, Math.max(0, at)) })),
    take: (photo, extent, turn) =>
      begin(photo.id, extent === null ? "turned" : "taken", async () => {
        const saved = await api.decide(photo, extent, turn);
        return () => api.step(saved, "undo");
      }),
    leave: (photo) =>
      begin(photo.id, "left", async () => {
        await api.putAside([photo.id], true);
        return () => api.putAside([photo.id], false);
      }),
    adjust: (id) => set(({ done }) => ({ done: { ...done, [id]: "adjusted" } })),
    saved: () => Promise.all(steps.map((step) => step.saved)),
    undo: async () => {
      const step = steps.pop();
      if (!step) return;
      set(({ done: { [step.id]: _gone, ...done } }) => ({ at: step.at, done }));
      try {
        await (await step.saved)?.();
      } catch (problem) {
        set({ trouble: wordsOf(problem, "That could not be undone here; open the photo.") });
      }
    },
  };
});
