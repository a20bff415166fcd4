import { Box, chakra, Flex, Input } from "@chakra-ui/react";
import { memo, useEffect, useRef, useState } from "react";

import type { Kind, Reference } from "../../api/client";
import { keep, readNow, useBench } from "../../session/benchStore";
import { deleteLine } from "../../stage/tools/lineKeys";
import { asKind, asLaid, snapNote, withLine, withPoint, withRectangleFree } from "../../session/recipeEdits";
import { KINDS, KindSign, paperColour } from "../../stage/layers/signs";
import { KIND_COLOURS, SECOND_INK } from "../../parts/theme";
import { Choice, Touch } from "../../parts/Touch";

const Row = chakra("button", {
  base: { display: "block", w: "100%", textAlign: "left", px: "16px", py: "5px", cursor: "pointer", _hover: { bg: "touch" } },
});

/** Shapes that are known by their names; others are typed. */
const SHAPES: [label: string, shape: [number, number] | null][] = [
  ["shape not known", null],
  ["square", [1, 1]],
  ["1:√2, upright", [1, Math.SQRT2]],
  ["√2:1, lying", [Math.SQRT2, 1]],
  ["door 2:3", [2, 3]],
];

interface Props {
  number: number;
  line: Reference;
  chosen: boolean;
  pointed: boolean;
}

/** One line of the field book; the chosen one shows what can be done with it. */
export const LineEntry = memo(function LineEntry({ number, line, chosen, pointed }: Props) {
  const place = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (chosen) place.current?.scrollIntoView?.({ block: "nearest" });
  }, [chosen]);
  return (
    <Box
      as="li"
      ref={place}
      listStyleType="none"
      borderBottom="1px solid"
      borderColor="rule"
      bg={chosen || pointed ? "touch" : undefined}
      boxShadow={pointed ? `inset 4px 0 0 ${paperColour(line.kind)}` : undefined}
      data-pointed={pointed}
      onPointerEnter={() => useBench.setState({ pointed: line.id })}
      onPointerLeave={() => useBench.setState({ pointed: null })}
    >
      <Row aria-expanded={chosen} onClick={() => useBench.setState({ selected: chosen ? null : line.id })}>
        <Readings number={number} line={line} />
      </Row>
      {chosen && <Actions number={number} line={line} />}
    </Box>
  );
});

const BETWEEN = { display: "flex", justifyContent: "space-between", gap: "10px" } as const;
const MONO = { fontFamily: "'Atkinson Hyperlegible Mono Variable', monospace" };

/** What changes with every move of the hand: plain elements, so that ten lines follow it. */
function Readings({ number, line }: { number: number; line: Reference }) {
  const row = useBench((state) => readNow(state)?.lines.find((one) => one.id === line.id));
  const bad = row?.verdict === "disagrees" || row?.verdict === "receding?";
  return (
    <>
      <span style={{ ...BETWEEN, alignItems: "center" }}>
        <span style={{ display: "flex", alignItems: "center", gap: "8px", fontWeight: 700, color: paperColour(line.kind) }}>
          <KindSign kind={line.kind} />
          {number} {line.kind}
          {line.kind === "receding" && line.group ? ` ${line.group}` : ""}
        </span>
        <span style={MONO}>
          {row?.after} <span style={{ fontSize: "12px", color: SECOND_INK }}>{row?.plus_minus}</span>
        </span>
      </span>
      <span style={{ ...BETWEEN, fontSize: "13px", lineHeight: 1.25, color: SECOND_INK }}>
        <span style={{ flex: "none" }}>{row?.as_taken}</span>
        <span style={{ textAlign: "right", ...(bad && { color: KIND_COLOURS.plumb.paper, fontWeight: 700 }) }}>{row?.verdict_words}</span>
      </span>
    </>
  );
}

function Actions({ number, line }: { number: number; line: Reference }) {
  const group = useBench((state) => state.group);
  // The line may be on its way to its edge: what is changed is the line as it stands by then.
  const change = (edit: (now: Reference) => Reference, action: string, snap: string[] = []) =>
    void keep((now) => withLine(now, line.id, edit), action, snap);
  const become = (kind: Kind) => {
    const other = (now: Reference) => asKind(now, kind, group);
    if (kind !== line.kind)
      void keep((now) => withRectangleFree(withLine(now, line.id, other), other(line)), `Line ${number} is ${kind} now`);
  };
  const note = snapNote(line);
  return (
    <Box px="16px" pb="8px" role="group" aria-label={`Line ${number}`}>
      <Flex gap="6px">
        <Choice flex="1" aria-label={`Kind of line ${number}`} value={line.kind} onChange={(event) => become(event.target.value as Kind)}>
          {KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {kind}
            </option>
          ))}
        </Choice>
        <Touch
          px="8px"
          fontSize="13px"
          aria-pressed={!line.active}
          onClick={() => change((now) => ({ ...now, active: !line.active }), `Switched line ${number} ${line.active ? "off" : "on"}`)}
        >
          Off
        </Touch>
        <Touch px="8px" fontSize="13px" onClick={() => deleteLine(line.id)}>
          Delete
        </Touch>
      </Flex>
      <Flex gap="6px" mt="6px" align="center" wrap="wrap">
        <Weight line={line} onSet={(weight) => change((now) => ({ ...now, weight }), `Line ${number} counts ${weight} times`)} />
        {line.kind === "receding" && (
          <Choice
            aria-label="Runs beside"
            value={line.group ?? ""}
            onChange={(event) => {
              const name = event.target.value;
              useBench.setState({ group: name });
              change((now) => ({ ...now, group: name }), `Line ${number} runs with group ${name}`);
            }}
          >
            {["1", "2", "3", "4"].map((name) => (
              <option key={name} value={name}>
                group {name}
              </option>
            ))}
          </Choice>
        )}
        {line.kind === "rectangle" && <ShapeOf line={line} onSet={(shape) => change((now) => ({ ...now, shape }), `Shape of rectangle ${number}`)} />}
        {line.kind === "straight" && (
          <Touch px="8px" fontSize="13px" onClick={() => change(withPoint, `One point more on line ${number}`)}>
            One point more
          </Touch>
        )}
        {note?.laid && (
          <Touch px="8px" fontSize="13px" onClick={() => change(asLaid, `Line ${number} as it was laid`)}>
            As laid
          </Touch>
        )}
        {!note?.laid && line.kind !== "straight" && (
          <Touch px="8px" fontSize="13px" onClick={() => change((now) => now, `Snapped line ${number}`, [line.id])}>
            Snap
          </Touch>
        )}
      </Flex>
      {note && (
        <Box fontSize="12px" color="second" mt="4px">
          {note.refused
            ? `Kept as laid: ${note.refused}.`
            : `Snapped: moved ${note.moved_px?.toFixed(1)} px, the edge is seen along ${Math.round(100 * (note.clarity ?? 0))} %.`}
        </Box>
      )}
    </Box>
  );
}

/** How many times a line counts, as if it had been laid so often. */
function Weight({ line, onSet }: { line: Reference; onSet: (weight: number) => void }) {
  return (
    <Typed
      label="Counts"
      name="How many times it counts"
      value={`${line.weight} ×`}
      width="58px"
      onSet={(text) => {
        const weight = Number(text.replace("×", "").replace(",", ".").trim());
        if (weight > 0 && weight <= 10 && weight !== line.weight) onSet(weight);
      }}
    />
  );
}

function ShapeOf({ line, onSet }: { line: Reference; onSet: (shape: [number, number] | null) => void }) {
  const known = SHAPES.findIndex(([, shape]) => (shape === null ? line.shape === null : line.shape?.[0] === shape[0] && line.shape[1] === shape[1]));
  return (
    <>
      <Choice aria-label="Its true shape" value={known} onChange={(event) => onSet(SHAPES[Number(event.target.value)]?.[1] ?? null)}>
        {known < 0 && <option value={-1}>typed</option>}
        {SHAPES.map(([label], at) => (
          <option key={label} value={at}>
            {label}
          </option>
        ))}
      </Choice>
      <Typed
        label="W:H"
        name="Its true width to height"
        value={line.shape ? line.shape.map((side) => Number(side.toFixed(4))).join(":") : ""}
        width="86px"
        onSet={(text) => {
          const [width, height] = text.replaceAll(",", ".").split(/[:x×/]/).map(Number);
          if (width && height && width > 0 && height > 0) onSet([width, height]);
        }}
      />
    </>
  );
}

function Typed({ label, name, value, width, onSet }: { label: string; name: string; value: string; width: string; onSet: (text: string) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <Flex as="label" align="center" gap="4px" fontSize="13px">
      {label}
      <Input
        aria-label={name}
        w={width}
        h="40px"
        px="5px"
        bg="touch"
        borderColor="edge"
        fontFamily="mono"
        fontSize="13px"
        value={typed ?? value}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => {
          if (typed !== null) onSet(typed);
          setTyped(null);
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") setTyped(null);
        }}
      />
    </Flex>
  );
}
