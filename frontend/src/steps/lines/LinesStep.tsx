import { Box, chakra, Flex } from "@chakra-ui/react";
import { memo, useRef, useState } from "react";

import type { Kind, Reference } from "../../api/client";
import { usePreferences } from "../../session/preferences";
import { around } from "../../session/around";
import { type Known, recipeNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { withReferences } from "../../session/recipeEdits";
import { KindSign } from "../../stage/layers/signs";
import { Touch } from "../../parts/Touch";
import { HandPanel } from "./HandPanel";
import { LineEntry } from "./LineEntry";
import { TakenOut } from "./TakenOut";
import type { LayKind } from "../../session/model";

const FIRST_KINDS: { kind: LayKind; label: string }[] = [
  { kind: "slope", label: "By its slope" },
  { kind: "level", label: "Level" },
  { kind: "plumb", label: "Plumb" },
];

const MORE_KINDS: { kind: Kind; label: string }[] = [
  { kind: "receding", label: "Receding" },
  { kind: "straight", label: "Straight" },
  { kind: "rectangle", label: "Rectangle" },
  { kind: "witness", label: "Witness" },
];

const HINTS: Record<LayKind, string> = {
  slope: "along something level or upright",
  level: "along far water, eaves, sills",
  plumb: "along a wall, a mast, a post",
  receding: "two or more, side by side",
  straight: "three points of it or more",
  rectangle: "four corners, or drag and pull them",
  witness: "only to see how it stands",
};

/** What the step Lines needs: the kinds, the readings, and at the foot what is taken out. */
export function LinesStep() {
  const count = useKnown((state) => recipeNow(state)?.references.length ?? 0);
  const byHand = useDesk((state) => state.byHand);
  if (byHand) return <HandPanel />;
  return (
    <>
      <LayALine />
      <Box px="16px" flex="none">
        <Flex justify="space-between" align="center" my="5px" minH="40px">
          <Box as="h2" fontWeight={700}>
            Field book
          </Box>
          <Box color="second" fontSize="13px">
            {count === 1 ? "1 line" : `${count} lines`}
          </Box>
          {count > 0 && <BookActions />}
        </Flex>
      </Box>
      <Box as="ol" flex="1" minH="104px" overflowY="auto" m={0} p={0} borderTop="1px solid" borderColor="rule" tabIndex={-1}>
        {count === 0 && (
          <Box as="li" listStyleType="none" p="16px" color="second">
            No line yet. Drag along the far waterline, a wall or a mast; or click its two ends. The longer the better.
          </Box>
        )}
        <Entries />
      </Box>
      <TakenOut />
    </>
  );
}

/** The lines without regard to where they lie: an entry stays as it is while its line is moved. */
function useBesidesPoints() {
  const last = useRef<readonly Reference[] | undefined>(undefined);
  return (known: Known) => {
    const next = recipeNow(known)?.references;
    if (!next || !last.current || !sameBesidesPoints(last.current, next)) last.current = next;
    return last.current;
  };
}

const sameBesidesPoints = (a: readonly Reference[], b: readonly Reference[]) =>
  a.length === b.length &&
  a.every((line, at) => {
    const other = around(b, at);
    return line === other || JSON.stringify({ ...line, points: 0, sigma_px: 0 }) === JSON.stringify({ ...other, points: 0, sigma_px: 0 });
  });

function Entries() {
  const selected = useDesk((state) => state.selected);
  const pointed = useDesk((state) => state.pointed);
  const references = useKnown(useBesidesPoints());
  return references?.map((line, index) => (
    <LineEntry key={line.id} number={index + 1} line={line} chosen={selected === line.id} pointed={pointed === line.id} />
  ));
}

const Saved = chakra("a", {
  base: { minH: "40px", minW: "40px", display: "inline-flex", alignItems: "center", justifyContent: "center", fontSize: "13px", textDecoration: "underline" },
});

/** The field book as a file, and all of it cleared. */
function BookActions() {
  const session = useSession();
  const id = useKnown((state) => state.bench?.photo.id);
  return (
    <Flex align="center" gap="2px">
      <Saved href={`/api/photos/${id}/field-book.csv`} download aria-label="Field book as CSV">
        CSV
      </Saved>
      <Saved href={`/api/photos/${id}/field-book.json`} download aria-label="Field book as JSON">
        JSON
      </Saved>
      <Touch px="8px" fontSize="13px" onClick={() => void session.keep((now) => withReferences(now, []), "Cleared all lines")}>
        Clear all
      </Touch>
    </Flex>
  );
}

/** The kinds, and what helps to lay a line well. */
const LayALine = memo(function LayALine() {
  const session = useSession();
  const kind = useDesk((state) => state.kind);
  const magnifier = usePreferences((state) => state.magnifier);
  const snap = usePreferences((state) => state.snap);
  const rare = MORE_KINDS.some((one) => one.kind === kind);
  const [open, setOpen] = useState(rare);
  const button = ({ kind: one, label }: { kind: LayKind; label: string }) => (
    <Touch key={one} flex="1 1 auto" px="5px" gap="4px" fontSize="13px" aria-pressed={kind === one} onClick={() => session.desk.setState({ kind: one })}>
      {(one === "level" || one === "plumb") && <KindSign kind={one} />}
      {label}
    </Touch>
  );
  return (
    <Box px="16px" pt="10px" flex="none">
      <Flex justify="space-between" align="baseline" gap="8px">
        <Box as="h2" fontWeight={700} whiteSpace="nowrap">
          Lay a line
        </Box>
        <Box color="second" fontSize="13px" textAlign="right" lineHeight="1.2">
          {HINTS[kind]}
        </Box>
      </Flex>
      <Flex mt="6px" gap="5px" wrap="wrap" role="group" aria-label="Kind of line to lay">
        {FIRST_KINDS.map(button)}
        {(open || rare) && MORE_KINDS.map(button)}
      </Flex>
      <Flex mt="5px" gap="5px">
        <Touch flex="1 1 auto" px="4px" fontSize="13px" aria-expanded={open || rare} disabled={rare} onClick={() => setOpen(!open)}>
          {open || rare ? "Fewer kinds" : "More kinds"}
        </Touch>
        <Touch flex="1 1 auto" px="4px" fontSize="13px" aria-pressed={snap} onClick={() => usePreferences.setState({ snap: !snap })}>
          Snap {snap ? "on" : "off"}
        </Touch>
        <Touch
          flex="1 1 auto"
          px="4px"
          fontSize="13px"
          aria-pressed={magnifier}
          aria-label={`Magnifier ${magnifier ? "on" : "off"}`}
          onClick={() => usePreferences.setState({ magnifier: !magnifier })}
        >
          Magnifier
        </Touch>
        <Touch
          flex="1 1 auto"
          px="4px"
          fontSize="13px"
          aria-label="Lay by keys"
          onClick={() => {
            const stage = document.querySelector<HTMLElement>("[data-stage]");
            stage?.focus();
            stage?.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
          }}
        >
          By keys
        </Touch>
      </Flex>
    </Box>
  );
});
