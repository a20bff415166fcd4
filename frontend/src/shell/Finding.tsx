import { Box } from "@chakra-ui/react";

import { readNow, useBench } from "../session/benchStore";

const FIGURE = /(± ?[\d.]+°|[\d.]+°|[\d.]+ %|[\d.]+:[\d.]+)/;

/** The sentence of what is true now; its figures stand out. */
export function Finding() {
  const words = useBench((state) => readNow(state)?.finding ?? (state.bench ? "" : "Reading the photo …"));
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
