import { Box } from "@chakra-ui/react";

/** How far something is; `share` from 0 to 1. */
export function Progress({ name, share }: { name: string; share: number }) {
  return (
    <Box
      role="progressbar"
      aria-label={name}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(share * 100)}
      h="6px"
      bg="rule"
      borderRadius="3px"
    >
      <Box h="6px" bg="ink" borderRadius="3px" style={{ width: `${share * 100}%` }} />
    </Box>
  );
}
