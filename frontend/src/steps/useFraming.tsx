import { useCallback, useState } from "react";

import type { Framed, FrameAsk, Recipe } from "../api/client";
import { baseNow } from "../session/session";
import { useKnown, useSession } from "../session/useSession";
import { previewed } from "../session/preview";
import { capital } from "../parts/sentence";
import { Touch } from "../parts/Touch";

/** Ask the core to do something to the frame, and what came of it where that has to be told, until anything changes. */
export function useFraming() {
  const session = useSession();
  const base = useKnown(baseNow);
  const [last, setTold] = useState<{ answer: Framed | string; base: Recipe | null } | null>(null);
  const ask = useCallback(async (wanted: FrameAsk) => {
    setTold(null);
    const answer = await session.keepFramed(wanted);
    if (typeof answer === "string" || (answer && answer.words)) setTold({ answer, base: baseNow(session.known.getState()) });
  }, [session]);
  return { ask, told: last && last.base === base ? last.answer : null };
}

/** What gave way, or why it cannot be done; the nearest is one touch away. */
export function Told({ told }: { told: Framed | string | null }) {
  const session = useSession();
  if (!told) return <div role="status" />;
  if (typeof told === "string")
    return (
      <div role="alert" className="told" style={{ marginTop: 10, borderColor: "var(--chakra-colors-plumb)" }}>
        {capital(told)}.
      </div>
    );
  return (
    <div role="status" className="told" style={{ marginTop: 10, borderColor: "var(--chakra-colors-doubt)" }}>
      {told.words}
      {!told.done && (
        <Touch
          mt="6px"
          w="100%"
          {...previewed(session, told.recipe)}
          onClick={() => void session.keep(() => told.recipe, told.action)}
        >
          Take the nearest
        </Touch>
      )}
    </div>
  );
}
