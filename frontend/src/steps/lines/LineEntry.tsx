import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef } from "react";

import type { LineRow, Reference } from "../../api/client";
import { keep, useBench } from "../../bench/benchStore";
import { deleteLine } from "../../bench/lineKeys";
import { replaced } from "../../bench/recipeEdits";
import { type BuiltKind, isBuilt, KindSign } from "../../bench/signs";
import { KIND_COLOURS } from "../../theme";
import { Touch } from "../../Touch";

const Row = chakra("button", {
  base: { display: "block", w: "100%", textAlign: "left", px: "16px", py: "6px", cursor: "pointer", _hover: { bg: "touch" } },
});

/** One line of the field book; the chosen one shows what can be done with it. */
export function LineEntry({ row, line, chosen }: { row: LineRow; line: Reference; chosen: boolean }) {
  const place = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (chosen) place.current?.scrollIntoView?.({ block: "nearest" });
  }, [chosen]);

  const become = (kind: BuiltKind) => {
    if (kind !== line.kind) void keep((now) => replaced(now, { ...line, kind }), `Line ${row.number} is ${kind} now`);
  };
  const bad = row.verdict === "disagrees";
  return (
    <Box as="li" ref={place} listStyleType="none" borderBottom="1px solid" borderColor="rule" bg={chosen ? "touch" : undefined}>
      <Row aria-expanded={chosen} onClick={() => useBench.setState({ selected: chosen ? null : row.id })}>
        <Flex justify="space-between" align="center" gap="8px">
          <Flex align="center" gap="8px" fontWeight={700} style={{ color: isBuilt(row.kind) ? KIND_COLOURS[row.kind].paper : undefined }}>
            <KindSign kind={row.kind} />
            {row.number} {row.kind}
          </Flex>
          <Box fontFamily="mono">{row.after}</Box>
        </Flex>
        <Flex justify="space-between" fontSize="13px" color="second" gap="8px">
          <span>{row.as_taken}</span>
          <Box as="span" textAlign="right" color={bad ? "plumb" : undefined} fontWeight={bad ? 700 : undefined}>
            <Box as="span" fontFamily="mono" fontSize="12px">
              {row.plus_minus}
            </Box>{" "}
            · {row.verdict_words}
          </Box>
        </Flex>
      </Row>
      {chosen && (
        <Flex px="16px" pb="8px" gap="6px" wrap="wrap" role="group" aria-label={`Line ${row.number}`}>
          {(Object.keys(KIND_COLOURS) as BuiltKind[]).map((kind) => (
            <Touch key={kind} flex="1" px="6px" fontSize="13px" aria-pressed={line.kind === kind} onClick={() => become(kind)}>
              {kind}
            </Touch>
          ))}
          <Touch flex="1" px="6px" fontSize="13px" onClick={() => deleteLine(line.id)}>
            Delete
          </Touch>
        </Flex>
      )}
    </Box>
  );
}
