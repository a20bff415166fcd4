import { create } from "zustand";
import { createJSONStorage, persist } from "zustand/middleware";

export type Stand = "sure" | "eyes" | "corrected" | "left";
export type Order = "came" | "taken" | "title" | "camera" | "confidence";

/** Which photos the contact sheet shows, and in which order; what is not there is not asked for. */
export interface Asked {
  stand?: Stand;
  state?: string;
  sureness?: string;
  camera?: string;
  lens?: string;
  ratio?: string;
  brought?: string;
  group?: string;
  exported?: string;
  find?: string;
  by?: Order;
  down?: string;
}

/** What narrows the photos down one by one, beside how they stand and what is looked for. */
export const NARROWED = ["state", "sureness", "camera", "lens", "ratio", "brought", "group", "exported"] as const;

/** What is asked for stays for as long as the window does: who comes back from a photo finds the sheet as it was. */
export const useAsked = create<Asked>()(persist(() => ({}), { name: "sequor-sheet", storage: createJSONStorage(() => sessionStorage) }));

/** The same as the query of an address. */
export function askedWords(asked: Asked): string {
  const given = Object.entries(asked).filter(([, value]) => value !== undefined && value !== "");
  return given.length ? `?${new URLSearchParams(given as [string, string][]).toString()}` : "";
}

export const useAskedWords = (): string => useAsked(askedWords);

/** Ask for something else; undefined: for no particular. */
export const ask = (changed: Asked) => useAsked.setState(changed);

/** Whether only some of the photos are asked for. */
export const narrows = (asked: Asked): boolean => Boolean(asked.stand ?? asked.find) || NARROWED.some((name) => asked[name] !== undefined);

/** All photos again; their order stays. */
export const askForAll = () => useAsked.setState(({ by, down }) => ({ by, down }), true);
