import { Box, Flex } from "@chakra-ui/react";

import { keep, readNow, recipeNow, useBench } from "../../session/benchStore";
import { withHand, withoutHand } from "../../session/recipeEdits";
import { Touch } from "../../parts/Touch";
import { StillPanel } from "./StillPanel";
import { Angle, Proportion } from "./TakenOut";

/** Work without a line: every angle and the proportion by vernier, against what stands still. */
export function HandPanel() {
  const recipe = useBench(recipeNow);
  const read = useBench(readNow);
  if (!recipe || !read) return null;
  const { by_hand, proportion } = recipe.correction;
  const touched = proportion !== 1 || Object.values(by_hand).some((degrees) => degrees !== 0);
  return (
    <Box px="16px" py="10px" overflowY="auto" flex="1" minH={0} data-by-hand>
      <Flex justify="space-between" align="center" gap="6px">
        <Box as="h2" fontWeight={700} flex="1">
          By hand
        </Box>
        <Touch px="8px" fontSize="13px" disabled={!touched} onClick={() => void keep(withoutHand, "Everything back to zero")}>
          All back to zero
        </Touch>
        <Touch px="8px" fontSize="13px" onClick={() => useBench.setState({ byHand: false })}>
          By measuring
        </Touch>
      </Flex>
      {read.angles.map((row) => (
        <Angle key={row.name} row={row} recipe={recipe}>
          <Touch
            px="6px"
            minW="44px"
            fontSize="13px"
            disabled={by_hand[row.name] === 0}
            aria-label={`${row.name} back`}
            onClick={() => void keep((now) => withHand(now, row.name, 0), `Hand's part of ${row.name} back to zero`)}
          >
            Back
          </Touch>
        </Angle>
      ))}
      <Proportion recipe={recipe} />
      <Box mt="14px">
        <StillPanel />
      </Box>
    </Box>
  );
}
