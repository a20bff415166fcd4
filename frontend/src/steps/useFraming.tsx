import { useCallback } from "react";

import type { Action } from "../api/client";
import { useKnown, useSession } from "../session/useSession";

/** Ask for something about the frame: why it is refused is told on the page, what gave way for it beside the frame. */
export function useFraming() {
  const session = useSession();
  return useCallback((action: Action) => void session.ask(action), [session]);
}

/** Why what was asked for last is refused. */
export function Refusal() {
  const words = useKnown(({ came }) => (came?.refused ? came.words : null));
  if (words === null) return null;
  return (
    <div role="alert" className="told" style={{ marginTop: 10, borderColor: "var(--chakra-colors-plumb)" }}>
      {words}
    </div>
  );
}
