import { Box, Flex } from "@chakra-ui/react";

import { keep, readNow, recipeNow, useBench } from "../../bench/benchStore";
import { withRect } from "../../bench/recipeEdits";
import { Touch } from "../../Touch";

const percent = (share: number) => `${(share * 100).toFixed(1)} %`;

/** What the step Frame needs: the ratio, what the frame costs, and the way back to the largest. */
export function FrameStep() {
  const recipe = useBench(recipeNow);
  const read = useBench(readNow);
  if (!recipe || !read) return null;
  const { frame } = read;
  const largest = recipe.frame.rect === null;
  return (
    <Box px="16px" py="12px" overflowY="auto">
      <Flex justify="space-between" align="baseline">
        <Box as="h2" fontWeight={700}>
          Ratio
        </Box>
        <Box color="second" fontSize="13px">
          other ratios: later
        </Box>
      </Flex>
      <Box mt="6px">
        Original, <Mono>{frame.ratio}</Mono>
      </Box>
      <Box as="h2" fontWeight={700} mt="20px">
        What it costs
      </Box>
      <Box as="dl" m={0} mt="6px" css={{ display: "grid", gridTemplateColumns: "1fr auto", rowGap: "6px" }}>
        <dt>Kept of the photo</dt>
        <dd>
          <Mono>{percent(frame.kept)}</Mono>
        </dd>
        <dt>Empty in the frame</dt>
        <dd>
          <Mono>{frame.empty < 0.0005 ? "0 %" : percent(frame.empty)}</Mono>
        </dd>
        <dt>Pixels</dt>
        <dd>
          <Mono>
            {frame.width} × {frame.height} px
          </Mono>
        </dd>
      </Box>
      <Touch mt="20px" w="100%" disabled={largest} onClick={() => void keep((now) => withRect(now, null), "The largest frame")}>
        Take the largest frame
      </Touch>
      <Box mt="10px" color="second" fontSize="13px">
        {largest
          ? "This is the largest frame of this ratio with no empty corner. Drag it by a corner or a side to make it smaller, or inside to move it."
          : "Framed by hand. The ratio is locked and the frame cannot leave the picture."}
      </Box>
    </Box>
  );
}

function Mono({ children }: { children: React.ReactNode }) {
  return (
    <Box as="span" fontFamily="mono" whiteSpace="nowrap">
      {children}
    </Box>
  );
}
