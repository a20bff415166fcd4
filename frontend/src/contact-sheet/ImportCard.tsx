import { Box, Flex } from "@chakra-ui/react";

import { Touch } from "../parts/Touch";
import { useImports } from "./imports";

/** A file on its way in, or refused with the reason. */
export function ImportCard({ of }: { of: number }) {
  const one = useImports((state) => state.running[of]);
  const dismiss = useImports((state) => state.dismiss);
  if (!one) return null;
  return (
    <Flex
      role="listitem"
      minH="212px"
      direction="column"
      align="center"
      justify="center"
      gap="8px"
      p="16px"
      border="2px solid"
      borderColor="faint"
      borderRadius="4px"
      bg={one.error ? "paper" : undefined}
      textAlign="center"
    >
      <Box fontWeight={700} overflowWrap="anywhere">
        {one.name}
      </Box>
      {one.error ? (
        <>
          <Box role="alert">{one.error}</Box>
          <Touch onClick={() => dismiss(of)}>Close</Touch>
        </>
      ) : (
        <>
          <Box
            role="progressbar"
            aria-label={`Importing ${one.name}`}
            aria-valuenow={Math.round(one.share * 100)}
            aria-valuemin={0}
            aria-valuemax={100}
            w="160px"
            h="6px"
            bg="rule"
            borderRadius="3px"
          >
            <Box h="6px" bg="ink" borderRadius="3px" style={{ width: `${one.share * 100}%` }} />
          </Box>
          <Box>
            {one.words}… {Math.round(one.share * 100)}% of {(one.bytes / 1e6).toFixed(1)} MB
          </Box>
          <Touch onClick={one.stop}>Cancel</Touch>
        </>
      )}
    </Flex>
  );
}
