import { create } from "zustand";

import { askedWords, useAsked } from "../api/asked";
import { api, type Photo } from "../api/client";

/** What is open over the foot of the sheet. */
export type Panel = "carry" | "export" | "title" | "group" | "series" | "filter" | null;

interface Chosen {
  /** The photos that the next action is for, by their numbers. */
  numbers: ReadonlySet<number>;
  /** Where a range begins. */
  anchor: number | null;
  /** The photo that has the keyboard. */
  here: number | null;
  panel: Panel;
  large: boolean;
}

const NONE: ReadonlySet<number> = new Set();

export const useChosen = create<Chosen>(() => ({ numbers: NONE, anchor: null, here: null, panel: null, large: false }));

export const choose = (numbers: Iterable<number>) => useChosen.setState({ numbers: new Set(numbers) });

export const chooseNone = () => useChosen.setState({ numbers: NONE, anchor: null, panel: null });

export const openPanel = (panel: Panel) => useChosen.setState((before) => ({ panel: before.panel === panel ? null : panel }));

/** Only this one; with Ctrl this one too, or not any more; with Shift all from the last one on. */
export function chooseOne(photos: readonly Photo[], id: number, { more, range }: { more: boolean; range: boolean }) {
  const { numbers, anchor } = useChosen.getState();
  const from = photos.findIndex((one) => one.id === anchor);
  const to = photos.findIndex((one) => one.id === id);
  if (range && from >= 0 && to >= 0) {
    const between = photos.slice(Math.min(from, to), Math.max(from, to) + 1).map((one) => one.id);
    useChosen.setState({ numbers: new Set(more ? [...numbers, ...between] : between), here: id });
    return;
  }
  const next = new Set(more ? numbers : NONE);
  if (more && numbers.has(id)) next.delete(id);
  else next.add(id);
  useChosen.setState({ numbers: next, anchor: id, here: id });
}

/** All photos that the sheet asks for, also those that were not read yet. */
export async function chooseAll() {
  const numbers = await api.numbers(askedWords(useAsked.getState()));
  useChosen.setState({ numbers: new Set(numbers), anchor: numbers[0] ?? null });
}

/** Those of some photos that stand in a way, in the order of the sheet. */
export async function chooseStanding(stand: "sure" | "eyes") {
  choose(await api.numbers(askedWords({ ...useAsked.getState(), stand })));
}
