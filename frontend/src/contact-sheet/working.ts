import type { QueryClient } from "@tanstack/react-query";
import { create } from "zustand";

import { api, type Batch, Problem, wordsOf } from "../api/client";
import { photosAgain } from "../api/photos";
import { fetchFile } from "../parts/fetchFile";

const POLL_MS = 500;
const AWAY_MS = 2000;
/** While many are done, the sheet is asked for only so often. */
const SHEET_MS = 2000;

interface Work {
  /** What is being done to many photos, and what was done and not read yet; the newest last. */
  batches: Batch[];
  trouble: string | null;
  /** What Ctrl Z takes back: the photos that were removed last, or the batch that changed photos last. */
  last: { removed: number[] } | { batch: number; words: string } | null;
}

export const useWork = create<Work>(() => ({ batches: [], trouble: null, last: null }));

const put = (batch: Batch) => useWork.setState(({ batches }) => ({ batches: [...batches.filter(({ id }) => id !== batch.id), batch].sort((a, b) => a.id - b.id) }));

export const dismissBatch = (id: number) => useWork.setState(({ batches }) => ({ batches: batches.filter((one) => one.id !== id) }));

export const complain = (problem: unknown) => useWork.setState({ trouble: wordsOf(problem) });

/** Whether something of a batch is still to come: its photos, or its taking back. */
export const isWorking = ({ working, undone }: Batch) => working || (undone !== null && undone < 1);

const followed = new Set<number>();

/** Look how far a batch is until it has ended; the sheet shows what it changed. */
async function follow(queries: QueryClient, first: Batch, onEnd: (batch: Batch) => void) {
  put(first);
  if (followed.has(first.id)) return;
  followed.add(first.id);
  let [batch, shown] = [first, Date.now()];
  try {
    while (isWorking(batch)) {
      await new Promise((resolve) => setTimeout(resolve, POLL_MS));
      try {
        batch = await api.batch(first.id);
      } catch (problem) {
        // It may be started anew, and goes on then.
        if (!(problem instanceof Problem) || problem.status === 404) throw problem;
        await new Promise((resolve) => setTimeout(resolve, AWAY_MS));
        continue;
      }
      put(batch);
      if (Date.now() - shown > SHEET_MS) {
        shown = Date.now();
        void photosAgain(queries);
      }
    }
    onEnd(batch);
  } catch (problem) {
    complain(problem);
    dismissBatch(first.id);
  } finally {
    followed.delete(first.id);
    void photosAgain(queries);
  }
}

function ended(batch: Batch) {
  if (batch.undone !== null) dismissBatch(batch.id);
  else if (batch.kind === "export" && batch.file && !batch.failed) fetchFile(batch.file);
  if (batch.changed > 0 && batch.undone === null) useWork.setState({ last: { batch: batch.id, words: batch.label } });
}

/** Begin something on many photos, and see it to its end. */
export async function begin(queries: QueryClient, work: () => Promise<Batch>): Promise<boolean> {
  try {
    const batch = await work();
    if (batch.kind === "title") useWork.setState({ last: { batch: batch.id, words: batch.label } });
    void follow(queries, batch, ended);
    return true;
  } catch (problem) {
    complain(problem);
    return false;
  }
}

/** What was begun before this page was opened goes on. */
export async function takeUp(queries: QueryClient) {
  try {
    const { batches, last } = await api.batches();
    if (last) useWork.setState((before) => ({ last: before.last ?? { batch: last.id, words: last.label } }));
    for (const batch of batches) if (!followed.has(batch.id)) void follow(queries, batch, ended);
  } catch {
    // The sheet itself tells that nobody answers.
  }
}

export const cancelBatch = (queries: QueryClient, id: number) => void begin(queries, () => api.cancelBatch(id));

export const retryBatch = (queries: QueryClient, id: number) => void begin(queries, () => api.changeBatch(id, "retry"));

/** Take back what was done last to many photos. */
export async function undoLast(queries: QueryClient) {
  const { last } = useWork.getState();
  if (!last) return;
  useWork.setState({ last: null });
  if ("batch" in last) await begin(queries, () => api.changeBatch(last.batch, "undo"));
  else {
    try {
      await api.restoreAll(last.removed);
    } catch (problem) {
      complain(problem);
    }
    await photosAgain(queries);
  }
}
