import type { Recipe } from "../api/client";
import type { Session } from "./session";

/** While the pointer or the focus is on a choice, the bench shows what it would change; nothing is kept. */
export function previewed(session: Session, recipe: Recipe) {
  const show = () => {
    const { kept, draft } = session.known.getState();
    if (!kept && draft?.recipe !== recipe) session.look(() => recipe, true);
  };
  const putBack = () => {
    if (!session.known.getState().kept) session.dropDraft();
  };
  // Only a hand that moves has pointed at it: a choice that appears under a resting pointer was not meant.
  const onPointerMove = (event: { movementX: number; movementY: number }) => {
    if (event.movementX || event.movementY) show();
  };
  return { onPointerMove, onPointerLeave: putBack, onFocus: show, onBlur: putBack };
}
