import { useCallback, useState } from "react";

import type { Action, Recipe } from "../api/client";
import { baseNow } from "../session/session";
import type { Told as Answer } from "../session/model";
import { useKnown, useSession } from "../session/useSession";
import { previewed } from "../session/preview";
import { Touch } from "../parts/Touch";

/** What came of something that was asked for. */
interface Came {
  answer: Answer | string;
  action: Action;
}

/** Do something to the frame, and what came of it where that has to be told, until anything changes. */
export function useFraming() {
  const session = useSession();
  const base = useKnown(baseNow);
  const [last, setTold] = useState<(Came & { base: Recipe | null }) | null>(null);
  const ask = useCallback(async (action: Action) => {
    setTold(null);
    const answer = await session.ask(action);
    if (typeof answer === "string" || (answer && answer.words)) setTold({ answer, action, base: baseNow(session.known.getState()) });
  }, [session]);
  return { ask, told: last && last.base === base ? last : null };
}

/** What gave way, or why it cannot be done; the nearest is one touch away. */
export function Told({ told }: { told: Came | null }) {
  const session = useSession();
  if (!told) return <div role="status" />;
  const { answer, action } = told;
  const nearest = action.do === "place" && typeof answer !== "string" && !answer.done ? { ...action, nearest: true } : null;
  if (typeof answer === "string")
    return (
      <div role="alert" className="told" style={{ marginTop: 10, borderColor: "var(--chakra-colors-plumb)" }}>
        {answer}
      </div>
    );
  return (
    <div role="status" className="told" style={{ marginTop: 10, borderColor: "var(--chakra-colors-doubt)" }}>
      {answer.words}
      {nearest && (
        <Touch
          mt="6px"
          w="100%"
          {...previewed(session, nearest)}
          onClick={() => void session.do(nearest)}
        >
          Use the nearest possible
        </Touch>
      )}
    </div>
  );
}
