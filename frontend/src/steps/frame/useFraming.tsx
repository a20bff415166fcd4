import { Box } from "@chakra-ui/react";
import { useCallback, useState } from "react";

import type { Framed, FrameAsk, Recipe } from "../../api/client";
import { baseNow, keep, keepFramed, useBench } from "../../session/benchStore";
import { previewed } from "../../session/preview";
import { Touch } from "../../parts/Touch";

/** Ask the core to do something to the frame, and what came of it where that has to be told, until anything changes. */
export function useFraming() {
  const base = useBench(baseNow);
  const [last, setTold] = useState<{ answer: Framed | string; base: Recipe | null } | null>(null);
  const ask = useCallback(async (wanted: FrameAsk) => {
    setTold(null);
    const answer = await keepFramed(wanted);
    if (typeof answer === "string" || (answer && answer.words)) setTold({ answer, base: baseNow(useBench.getState()) });
  }, []);
  return { ask, told: last && last.base === base ? last.answer : null };
}

/** What gave way, or why it cannot be done; the nearest is one touch away. */
export function Told({ told }: { told: Framed | string | null }) {
  if (!told) return <Box role="status" />;
  if (typeof told === "string")
    return (
      <Box mt="10px" role="alert" borderLeft="4px solid" borderColor="plumb" pl="10px">
        {told[0]!.toUpperCase() + told.slice(1)}.
      </Box>
    );
  return (
    <Box mt="10px" role="status" borderLeft="4px solid" borderColor="doubt" pl="10px">
      {told.words}
      {!told.done && (
        <Touch
          mt="6px"
          w="100%"
          {...previewed(told.recipe)}
          onClick={() => void keep(() => told.recipe, told.action)}
        >
          Take the nearest
        </Touch>
      )}
    </Box>
  );
}
