import { create } from "zustand";

import { api, Problem, upload } from "../api/client";
import { followJob } from "../api/followJob";

export interface Import {
  key: number;
  name: string;
  bytes: number;
  share: number;
  words: string;
  error: string | null;
  stop: () => void;
}

interface Imports {
  running: Import[];
  add: (files: File[], done: () => void) => void;
  dismiss: (key: number) => void;
}

let next = 1;

/** Imports that are under way, or were refused and not read yet. One bad file never stops the others. */
export const useImports = create<Imports>((set) => {
  const change = (key: number, part: Partial<Import>) =>
    set((state) => ({ running: state.running.map((one) => (one.key === key ? { ...one, ...part } : one)) }));
  const dismiss = (key: number) => set((state) => ({ running: state.running.filter((one) => one.key !== key) }));

  async function bring(key: number, file: File, stopping: AbortController) {
    try {
      const sent = await upload(file, (share) => change(key, { share: share * 0.5, words: "sending" }), stopping.signal);
      stopping.signal.addEventListener("abort", () => void api.cancel(sent.id));
      const job = await followJob(sent, ({ progress, words }) => change(key, { share: 0.5 + progress * 0.5, words }));
      if (job.state === "failed") change(key, { error: job.error ?? "The file was refused; try again.", share: 0 });
      else if (job.known) change(key, { error: "this file is already on the contact sheet; nothing was added" });
      else if (job.notices.length) change(key, { error: `Imported. ${job.notices.join(" ")}` });
      else dismiss(key);
    } catch (error) {
      if (stopping.signal.aborted) dismiss(key);
      else change(key, { error: error instanceof Problem ? error.message : "the import failed; try again" });
    }
  }

  return {
    running: [],
    dismiss,
    add: (files, done) => {
      const waiting = files.map((file) => {
        const key = next++;
        const stopping = new AbortController();
        const stop = () => stopping.abort();
        const entry = { key, name: file.name, bytes: file.size, share: 0, words: "waiting", error: null, stop };
        return { entry, file, stopping };
      });
      set((state) => ({ running: [...state.running, ...waiting.map(({ entry }) => entry)] }));
      // Two at a time: the order stays, and a stack of large files does not fill the memory.
      const queue = [...waiting];
      const work = async () => {
        for (let one = queue.shift(); one; one = queue.shift()) {
          if (one.stopping.signal.aborted) dismiss(one.entry.key);
          else await bring(one.entry.key, one.file, one.stopping);
          done();
        }
      };
      void Promise.all([work(), work()]);
    },
  };
});
