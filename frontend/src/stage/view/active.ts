import type { StageView } from "./stageView";

let active: StageView | null = null;

/** The view that keys bring closer and farther: that of the stage, or of a comparison in its place. */
export const activeView = (): StageView | null => active;

/** Make a view the one that keys move; gives what ends it. */
export function activate(view: StageView): () => void {
  active = view;
  return () => {
    if (active === view) active = null;
  };
}
