import { Box, Flex } from "@chakra-ui/react";

import type { Recipe } from "../../api/client";
import { keep, keepSoon, look, readNow, recipeNow, useBench } from "../../bench/benchStore";
import { handFor, withHand, withRollOn } from "../../bench/recipeEdits";
import { Touch } from "../../Touch";
import { Vernier } from "./Vernier";

/** What is taken out, pinned to the foot of the field book. */
export function TakenOut() {
  const recipe = useBench(recipeNow);
  const read = useBench(readNow);
  if (!recipe || !read) return null;
  const { taken_out, words } = read.roll;
  const on = recipe.correction.on.roll;
  const by_hand = recipe.correction.by_hand.roll;
  // The evaluation may be a moment older than what the hand has done since: count that in.
  const value = taken_out + (by_hand - read.roll.by_hand);
  const led = (to: number) => {
    const roll = handFor(recipe, to - value);
    return (now: Recipe) => withHand(now, roll);
  };
  return (
    <Box px="16px" py="10px" flex="none" borderTop="1px solid" borderColor="rule">
      <Flex justify="space-between" align="baseline">
        <Box as="h2" fontWeight={700}>
          Taken out
        </Box>
        <Box fontSize="13px" color="second">
          {by_hand ? `${by_hand > 0 ? "+" : "−"}${Math.abs(by_hand).toFixed(2)}° of it by hand` : "as the lines say"}
        </Box>
      </Flex>
      <Vernier
        name="Roll"
        words={on || by_hand ? words : "switched off"}
        value={value}
        range={45}
        onLead={(to) => look(led(to), true)}
        onLetGo={(to) => void keep(led(to), "Turned by hand")}
        onNudge={(by) => keepSoon(led(value + by), "Turned by hand", true)}
      />
      <Flex gap="6px" mt="6px">
        <Touch flex="1" fontSize="13px" disabled={by_hand === 0} onClick={() => void keep((now) => withHand(now, 0), "Back to what the lines say")}>
          Back
        </Touch>
        <Touch
          flex="1"
          fontSize="13px"
          aria-pressed={!on}
          onClick={() => void keep((now) => withRollOn(now, !on), on ? "Roll is not taken out" : "Roll is taken out")}
        >
          None
        </Touch>
      </Flex>
    </Box>
  );
}
