import type { Action } from "../api/client";
import type { Session } from "./session";

/** While the pointer or the focus is on a choice, the bench shows what it would change; nothing is kept. */
export function previewed(session: Session, action: Action) {
  const wanted = JSON.stringify(action);
  const show = () => {
    const { kept, draft } = session.known.getState();
    if (!kept && JSON.stringify(draft?.action) !== wanted) session.look(action, true);
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
