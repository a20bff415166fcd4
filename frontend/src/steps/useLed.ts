import type { Action } from "../api/client";
import { useSession } from "../session/useSession";

/** By how much the picture is learned to move before the hand leads a vernier, in its unit. */
const AHEAD = 0.4;

interface Led {
  name: string;
  /** Where the number stands. */
  value: number;
  /** What sets it to another number. */
  set: (to: number) => Action;
}

/** What a vernier does that leads a number of the recipe: the picture follows at once, letting go is one action. */
export function useLed({ name, value, set }: Led) {
  const session = useSession();
  return {
    onGrip: () => session.foresee({ name, value }, { name, value: value + AHEAD }, set(value + AHEAD)),
    onLead: (to: number) => session.look(set(to), true, { name, value: to }),
    onLetGo: (to: number) => void session.do(set(to)),
    onNudge: (by: number) => session.doSoon(set(value + by), true, { name, value: value + by }),
  };
}
