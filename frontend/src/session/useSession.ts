import { createContext, useContext, useRef } from "react";
import { useStore } from "zustand";

import type { Desk } from "./model";
import type { Known, Session } from "./session";

export const SessionContext = createContext<Session | null>(null);

/** The photo that is open around here. */
export function useSession(): Session {
  const session = useContext(SessionContext);
  if (!session) throw new Error("there is no open photo around this");
  return session;
}

/** Something of what is known of the photo, as it changes. */
export const useKnown = <T>(pick: (known: Known) => T): T => useStore(useSession().known, pick);

/** Something of what is on the page, as it changes. */
export const useDesk = <T>(pick: (desk: Desk) => T): T => useStore(useSession().desk, pick);

/** What is picked of a state, as long as it is the same in what counts: what was picked before. */
export function useSame<State, Picked>(pick: (state: State) => Picked, same: (before: Picked, now: Picked) => boolean): (state: State) => Picked {
  const last = useRef<{ picked: Picked } | null>(null);
  return (state) => {
    const picked = pick(state);
    if (!last.current || !same(last.current.picked, picked)) last.current = { picked };
    return last.current.picked;
  };
}
