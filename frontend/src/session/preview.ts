import type { Recipe } from "../api/client";
import { dropDraft, look, useBench } from "./benchStore";

/** While the pointer or the focus is on a choice, the bench shows what it would change; nothing is kept. */
export function previewed(recipe: Recipe) {
  const show = () => {
    const { kept, draft } = useBench.getState();
    if (!kept && draft?.recipe !== recipe) look(() => recipe, true);
  };
  const putBack = () => {
    if (!useBench.getState().kept) dropDraft();
  };
  // Only a hand that moves has pointed at it: a choice that appears under a resting pointer was not meant.
  const onPointerMove = (event: React.PointerEvent) => {
    if (event.movementX || event.movementY) show();
  };
  return { onPointerMove, onPointerLeave: putBack, onFocus: show, onBlur: putBack };
}
