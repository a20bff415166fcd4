import { Box, Flex } from "@chakra-ui/react";

import { baseNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { Touch } from "../../parts/Touch";
import { ComposePage } from "./ComposePage";
import { PrintPage } from "./PrintPage";
import { ShapePage } from "./ShapePage";
import type { FramePage } from "../../session/model";

const PAGES: { page: FramePage; label: string }[] = [
  { page: "shape", label: "Shape" },
  { page: "compose", label: "Compose" },
  { page: "print", label: "Print" },
];

/** What the step Frame needs, on three pages: its shape and cost, its composition, its print. */
export function FrameStep() {
  const session = useSession();
  // While something is dragged the pages stay as they are: what has to follow the hand is written live.
  const recipe = useKnown(baseNow);
  const read = useKnown(({ seen }) => seen);
  const page = useDesk((state) => state.framePage);
  if (!recipe || !read) return null;
  return (
    <>
      <Flex px="16px" py="8px" gap="0" role="group" aria-label="Pages of the step Frame" borderBottom="1px solid" borderColor="rule" flex="none">
        {PAGES.map((one, at) => (
          <Touch
            key={one.page}
            flex="1"
            borderRadius={at === 0 ? "4px 0 0 4px" : at === PAGES.length - 1 ? "0 4px 4px 0" : 0}
            borderLeftWidth={at === 0 ? "1px" : 0}
            aria-pressed={page === one.page}
            onClick={() => session.desk.setState({ framePage: one.page, marking: false })}
          >
            {one.label}
          </Touch>
        ))}
      </Flex>
      <Box px="16px" py="12px" overflowY="auto" flex="1" minH={0} data-frame-page={page}>
        {page === "shape" && <ShapePage recipe={recipe} read={read} />}
        {page === "compose" && <ComposePage recipe={recipe} read={read} />}
        {page === "print" && <PrintPage recipe={recipe} read={read} />}
      </Box>
    </>
  );
}
