import { Box } from "@chakra-ui/react";

const FIGURE = /(± ?[\d.]+°|[\d.]+°|[\d.]+ %|\d+:\d+)/;

/** The sentence of what is true now; its figures stand out. */
export function Finding({ words }: { words: string }) {
  return words.split(FIGURE).map((part, index) =>
    index % 2 ? (
      <Box as="span" key={index} fontFamily="mono" fontWeight={600} whiteSpace="nowrap">
        {part}
      </Box>
    ) : (
      part
    ),
  );
}
