import type { QueryClient } from "@tanstack/react-query";
import { create } from "zustand";

import { api, upload, wordsOf } from "../api/client";
import { followJob } from "../api/jobs";
import { isHere } from "./hashing";

export interface Import {
  key: number;
  name: string;
  bytes: number;
  share: number;
  words: string;
  error: string | null;
  /** The address of a first look at it, where there is one. */
  look: string | null;
  /** It was exported from a photo that is here: its title, the job that knows the steps, and the file. */
  steps: { of: string; job: string; file: File } | null;
  stop: () => void;
}

interface Imports {
  /** By their keys: what happens to one concerns its own card only. */
  running: Record<number, Import>;
  order: number[];
  /** How many files were added since none was under way, how many of them have ended, and how many were here already. */
  added: number;
  ended: number;
  here: number;
  /** What folders held besides photos. */
  passedOver: number;
  /** `done` is called once whenever a stack has ended, and now and then on the way. */
  add: (queries: QueryClient, files: File[], done: () => void, more?: { folder: string | null; passedOver: number }) => void;
  dismiss: (key: number) => void;
  /** Add an exported picture as a photo of its own. */
  own: (queries: QueryClient, key: number) => void;
  /** All that was refused is read. */
  dismissRefused: () => void;
  stopAll: () => void;
}

let next = 1;

/** Of a stack of more files than these, what is here already is counted, and not told one by one. */
const FEW = 12;

/** What a stack of files is called, where photos are chosen by it. */
export function stackName(folder: string | null, files: number): string {
  const when = new Date().toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
  return `${folder ?? (files === 1 ? "1 file" : `${files} files`)}, ${when}`;
}

/** So many imports the list is asked for once. */
const BATCH = 20;

/** Imports that are under way, or were refused and not read yet. One bad file never stops the others. */
export const useImports = create<Imports>((set, get) => {
  const change = (key: number, part: Partial<Import>) =>
    set(({ running }) => {
      const one = running[key];
      return one ? { running: { ...running, [key]: { ...one, ...part } } } : {};
    });
  const dismiss = (key: number) =>
    set(({ running: { [key]: _gone, ...running }, order }) => ({ running, order: order.filter((one) => one !== key) }));

  async function bring(queries: QueryClient, key: number, file: File, stopping: AbortController, { alone = false, batch = null as number | null, many = false } = {}) {
    const known = () => {
      set(({ here }) => ({ here: here + 1 }));
      if (many) dismiss(key);
      else change(key, { error: "This photo is already on the contact sheet. Nothing was added." });
    };
    try {
      // Of a folder that was begun before, what is here is not sent again.
      if (!alone && (await isHere(file))) return known();
      if (stopping.signal.aborted) return dismiss(key);
      const sent = await upload(file, (share) => change(key, { share: share * 0.5, words: "Uploading" }), stopping.signal, { alone, batch });
      stopping.signal.addEventListener("abort", () => void api.cancel(sent.id));
      const job = await followJob(queries, sent, ({ progress, words, look }) =>
        change(key, { share: 0.5 + progress * 0.5, words, look: look ? `/api/jobs/${sent.id}/look.jpg` : null }),
      );
      if (job.state === "failed") change(key, { error: job.error ?? "This file could not be imported. Nothing was added.", share: 0 });
      else if (job.steps_of) {
        change(key, { steps: { of: job.steps_of, job: job.id, file }, error: `This picture was exported from “${job.steps_of}”. Nothing was added yet.` });
      } else if (job.known) known();
      else if (job.notices.length) change(key, { error: `Imported. ${job.notices.join(" ")}` });
      else dismiss(key);
    } catch (error) {
      if (stopping.signal.aborted) dismiss(key);
      else change(key, { error: wordsOf(error, "The import failed and nothing was added. Please try again.") });
    }
  }

  return {
    running: {},
    order: [],
    added: 0,
    ended: 0,
    here: 0,
    passedOver: 0,
    dismiss,
    own: (queries, key) => {
      const file = get().running[key]?.steps?.file;
      if (!file) return;
      change(key, { steps: null, error: null, share: 0, words: "Waiting" });
      void bring(queries, key, file, new AbortController(), { alone: true }).then(() => queries.invalidateQueries({ queryKey: ["photos"] }));
    },
    dismissRefused: () => Object.values(get().running).forEach(({ key, error }) => error !== null && dismiss(key)),
    stopAll: () => Object.values(get().running).forEach(({ error, stop }) => error === null && stop()),
    add: (queries, files, done, { folder = null, passedOver = 0 } = { folder: null, passedOver: 0 }) => {
      const waiting = files.map((file) => {
        const key = next++;
        const stopping = new AbortController();
        const stop = () => stopping.abort();
        const entry = { key, name: file.name, bytes: file.size, share: 0, words: "Waiting", error: null, look: null, steps: null, stop };
        return { entry, file, stopping };
      });
      set(({ running, order, added, ended }) => ({
        ...(ended < added ? { added: added + files.length, passedOver } : { added: files.length, ended: 0, here: 0, passedOver }),
        running: { ...running, ...Object.fromEntries(waiting.map(({ entry }) => [entry.key, entry])) },
        order: [...order, ...waiting.map(({ entry }) => entry.key)],
      }));
      // Two at a time: the order stays, and a stack of large files does not fill the memory.
      const queue = [...waiting];
      const many = files.length > FEW;
      const batch = files.length > 1 || folder ? api.beginImport(stackName(folder, files.length)).then(({ id }) => id, () => null) : Promise.resolve(null);
      let told = 0;
      const work = async () => {
        for (let one = queue.shift(); one; one = queue.shift()) {
          if (one.stopping.signal.aborted) dismiss(one.entry.key);
          else await bring(queries, one.entry.key, one.file, one.stopping, { batch: await batch, many });
          set(({ ended }) => ({ ended: ended + 1 }));
          // A small stack shows each photo as it comes; a large one asks for the list once a batch.
          if (queue.length < BATCH || ++told % BATCH === 0) done();
        }
      };
      void Promise.all([work(), work()]);
    },
  };
});
