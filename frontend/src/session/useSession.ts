import { createContext, useContext } from "react";
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
