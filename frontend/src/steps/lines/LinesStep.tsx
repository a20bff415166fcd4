import { Box, Flex } from "@chakra-ui/react";
import { memo } from "react";

import { type LayKind, readNow, recipeNow, useBench } from "../../bench/benchStore";
import { KindSign } from "../../bench/signs";
import { Touch } from "../../Touch";
import { LineEntry } from "./LineEntry";
import { TakenOut } from "./TakenOut";

const KINDS: { kind: LayKind; label: string; sign: boolean }[] = [
  { kind: "slope", label: "By its slope", sign: false },
  { kind: "level", label: "Level", sign: true },
  { kind: "plumb", label: "Plumb", sign: true },
  { kind: "witness", label: "Witness", sign: true },
];

const HINTS: Record<LayKind, string> = {
  slope: "along something level or upright",
  level: "along far water, eaves, sills",
  plumb: "along a wall, a mast, a post",
  witness: "only to see how it stands",
};

/** What the step Lines needs: the kinds, the readings, and at the foot what is taken out. */
export function LinesStep() {
  const selected = useBench((state) => state.selected);
  const recipe = useBench(recipeNow);
  const read = useBench(readNow);
  const rows = read?.lines ?? [];
  return (
    <>
      <LayALine />
      <Box px="16px" flex="none">
        <Flex justify="space-between" align="baseline" mt="14px">
          <Box as="h2" fontWeight={700}>
            Field book
          </Box>
          <Box color="second" fontSize="13px">
            {rows.length === 1 ? "1 line" : `${rows.length} lines`}
          </Box>
        </Flex>
        {rows.length > 0 && (
          <Flex justify="space-between" fontSize="12px" color="second" mt="4px">
            <span>line, as taken</span>
            <span>after</span>
          </Flex>
        )}
      </Box>
      <Box as="ol" flex="1" minH="60px" overflowY="auto" m={0} p={0} mt="4px" borderTop="1px solid" borderColor="rule" tabIndex={-1}>
        {rows.length === 0 && (
          <Box as="li" listStyleType="none" p="16px" color="second">
            No line yet. Drag along the far waterline, a wall or a mast; or click its two ends. The longer the better.
          </Box>
        )}
        {recipe &&
          rows.map((row) => {
            const line = recipe.references.find((one) => one.id === row.id);
            return line && <LineEntry key={row.id} row={row} line={line} chosen={selected === row.id} />;
          })}
      </Box>
      <TakenOut />
    </>
  );
}

/** The kinds, and what helps to lay a line well. */
const LayALine = memo(function LayALine() {
  const kind = useBench((state) => state.kind);
  const magnifier = useBench((state) => state.magnifier);
  return (
    <Box px="16px" pt="12px" flex="none">
      <Flex justify="space-between" align="baseline" gap="8px">
        <Box as="h2" fontWeight={700} whiteSpace="nowrap">
          Lay a line
        </Box>
        <Box color="second" fontSize="13px" textAlign="right">
          {HINTS[kind]}
        </Box>
      </Flex>
      <Flex mt="8px" gap="6px" wrap="wrap" role="group" aria-label="Kind of line to lay">
        {KINDS.map(({ kind: one, label, sign }) => (
          <Touch
            key={one}
            flex="1 0 130px"
            px="8px"
            aria-pressed={kind === one}
            onClick={() => useBench.setState({ kind: one })}
          >
            {sign && <KindSign kind={one} />}
            {label}
          </Touch>
        ))}
      </Flex>
      <Flex justify="space-between" align="center" mt="6px" gap="8px">
        <Touch
          fontSize="13px"
          flex="1"
          onClick={() => {
            const stage = document.querySelector<HTMLElement>("[data-stage]");
            stage?.focus();
            stage?.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
          }}
        >
          Lay by keys
        </Touch>
        <Touch
          fontSize="13px"
          flex="1"
          aria-pressed={magnifier}
          onClick={() => useBench.setState({ magnifier: !magnifier })}
        >
          Magnifier {magnifier ? "on" : "off"}
        </Touch>
      </Flex>
    </Box>
  );
});
