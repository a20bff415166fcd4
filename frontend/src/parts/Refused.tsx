import { Box } from "@chakra-ui/react";

/** Why something was not done, under where it was asked for. */
export function Refused({ words }: { words: string | null }) {
  if (!words) return null;
  return (
    <Box role="alert" mt="6px" fontSize="0.8125rem" color="plumb">
      {words}
    </Box>
  );
}
