import { Box, chakra } from "@chakra-ui/react";

/** A heading in the field book, with a word beside it. */
export function Heading({ children, beside, first }: { children: React.ReactNode; beside?: React.ReactNode; first?: boolean }) {
  return (
    <Box display="flex" justifyContent="space-between" alignItems="baseline" gap="8px" mt={first ? 0 : "18px"} mb="6px">
      <Box as="h2" fontWeight={700}>
        {children}
      </Box>
      {beside !== undefined && (
        <Box color="second" fontSize="13px" textAlign="right">
          {beside}
        </Box>
      )}
    </Box>
  );
}

/** A sentence of less weight under what it speaks of. */
export const Aside = chakra("div", { base: { mt: "6px", color: "second", fontSize: "13px" } });

/** A figure in the middle of words. */
export const Figure = chakra("span", { base: { fontFamily: "mono", whiteSpace: "nowrap" } });

/** Things that can be touched, side by side in equal columns. */
export const Columns = chakra("div", { base: { display: "grid", gap: "6px", "& > button": { px: "4px", fontSize: "13px" } } });
