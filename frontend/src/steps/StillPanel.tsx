import { capital } from "../parts/sentence";
import { Box, Flex } from "@chakra-ui/react";

import { addStill, removeStill, stillName } from "../session/desk";
import type { Grid } from "../session/model";
import { usePreferences } from "../session/preferences";
import { useDesk, useSession } from "../session/useSession";
import { Touch } from "../parts/Touch";

const GRIDS: Grid[] = ["none", "coarse", "fine", "square"];

/** What stands still while the picture moves: a grid, and any number of lines that tell what the picture does there. */
export function StillPanel() {
  const session = useSession();
  const step = useDesk((state) => state.step);
  const grids = usePreferences((state) => state.grids);
  const still = useDesk((state) => state.still);
  const under = useDesk((state) => state.under);
  return (
    <>
      <Box as="h2" fontWeight={700}>
        What stands still
      </Box>
      <Flex mt="6px" gap="5px" role="group" aria-label="Grid">
        {GRIDS.map((grid) => (
          <Touch
            key={grid}
            flex="1"
            px="4px"
            fontSize="13px"
            aria-pressed={grids[step] === grid}
            onClick={() => usePreferences.setState({ grids: { ...grids, [step]: grid } })}
          >
            {grid === "none" ? "No grid" : capital(grid)}
          </Touch>
        ))}
      </Flex>
      <Flex mt="5px" gap="5px">
        <Touch flex="1" px="4px" fontSize="13px" onClick={() => addStill(session, "level")}>
          Level still line
        </Touch>
        <Touch flex="1" px="4px" fontSize="13px" onClick={() => addStill(session, "upright")}>
          Upright still line
        </Touch>
      </Flex>
      {still.length > 0 && (
        <Box as="ul" m={0} p={0} mt="8px" borderTop="1px solid" borderColor="rule">
          {still.map((line, at) => (
            <Flex as="li" key={line.id} listStyleType="none" gap="8px" align="center" borderBottom="1px solid" borderColor="rule" py="3px">
              <Box fontWeight={700} w="16px">
                {stillName(at)}
              </Box>
              <Box flex="1" fontSize="13px" lineHeight="1.25">
                {(under[line.id] ?? "").split(" · ").map((part, row) => (
                  <Box key={part} color={row ? "second" : undefined}>
                    {part}
                  </Box>
                ))}
              </Box>
              <Touch px="8px" fontSize="13px" aria-label={`Take still line ${stillName(at)} away`} onClick={() => removeStill(session, line.id)}>
                Away
              </Touch>
            </Flex>
          ))}
        </Box>
      )}
    </>
  );
}
