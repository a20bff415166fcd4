import type { Change } from "../session/model";
import { useSession } from "../session/useSession";

/** By how much the picture is learned to move before the hand leads a vernier, in its unit. */
const AHEAD = 0.4;

interface Led {
  name: string;
  /** Where the number stands. */
  value: number;
  /** What becomes of the recipe with another number. */
  change: (to: number) => Change;
  /** The action in words. */
  action: string;
}

/** What a vernier does that leads a number of the recipe: the picture follows at once, letting go is one action. */
export function useLed({ name, value, change, action }: Led) {
  const session = useSession();
  return {
    onGrip: () => session.foresee({ name, value }, { name, value: value + AHEAD }, change(value + AHEAD)),
    onLead: (to: number) => session.look(change(to), true, { name, value: to }),
    onLetGo: (to: number) => void session.keep(change(to), action),
    onNudge: (by: number) => session.keepSoon(change(value + by), action, true, { name, value: value + by }),
  };
}
