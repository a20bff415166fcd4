import { Box, chakra, Flex } from "@chakra-ui/react";
import { memo, useEffect, useRef } from "react";

import type { Kind, Reference } from "../../api/client";
import { deleteLine } from "../../session/desk";
import { usePreferences } from "../../session/preferences";
import { type Known, readNow } from "../../session/session";
import { useKnown, useSession } from "../../session/useSession";
import { asKind, asLaid, snapNote, withLine, withPoint, withRectangleFree } from "../../session/recipeEdits";
import { KINDS, KindSign, paperColour } from "../../stage/layers/signs";
import { KIND_COLOURS, SECOND_INK } from "../../parts/theme";
import { Field, NumberField } from "../../parts/NumberField";
import { Live } from "../../stage/Live";
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
  const session = useSession();
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
      onPointerEnter={() => session.desk.setState({ pointed: line.id })}
      onPointerLeave={() => session.desk.setState({ pointed: null })}
    >
      <Row aria-expanded={chosen} onClick={() => session.desk.setState({ selected: chosen ? null : line.id })}>
        <Readings number={number} line={line} />
      </Row>
      {chosen && <Actions number={number} line={line} />}
    </Box>
  );
});

const BETWEEN = { display: "flex", justifyContent: "space-between", gap: "10px" } as const;

const rowOf = (known: Known, id: string) => readNow(known)?.lines.find((one) => one.id === id);

/** What changes with every move of the hand: words that are written in place, so that any number of lines follows it. */
function Readings({ number, line }: { number: number; line: Reference }) {
  const bad = useKnown((known) => ["disagrees", "receding?"].includes(rowOf(known, line.id)?.verdict ?? ""));
  return (
    <>
      <span style={{ ...BETWEEN, alignItems: "center" }}>
        <span style={{ display: "flex", alignItems: "center", gap: "8px", fontWeight: 700, color: paperColour(line.kind) }}>
          <KindSign kind={line.kind} />
          {number} {line.kind}
          {line.kind === "receding" && line.group ? ` ${line.group}` : ""}
        </span>
        <span className="mono">
          <Live of={(known) => rowOf(known, line.id)?.after} />{" "}
          <Live style={{ fontSize: "0.75rem", color: SECOND_INK }} of={(known) => rowOf(known, line.id)?.plus_minus} />
        </span>
      </span>
      <span style={{ ...BETWEEN, fontSize: "0.8125rem", lineHeight: 1.25, color: SECOND_INK }}>
        <Live style={{ flex: "none" }} of={(known) => rowOf(known, line.id)?.as_taken} />
        <Live style={{ textAlign: "right", ...(bad && { color: KIND_COLOURS.plumb.paper, fontWeight: 700 }) }} of={(known) => rowOf(known, line.id)?.verdict_words} />
      </span>
    </>
  );
}

function Actions({ number, line }: { number: number; line: Reference }) {
  const session = useSession();
  const group = usePreferences((state) => state.group);
  // The line may be on its way to its edge: what is changed is the line as it stands by then.
  const change = (edit: (now: Reference) => Reference, action: string, snap: string[] = []) =>
    void session.keep((now) => withLine(now, line.id, edit), action, snap);
  const become = (kind: Kind) => {
    const other = (now: Reference) => asKind(now, kind, group);
    if (kind !== line.kind)
      void session.keep((now) => withRectangleFree(withLine(now, line.id, other), other(line)), `Line ${number} is ${kind} now`);
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
        <Touch px="8px" fontSize="13px" onClick={() => deleteLine(session, line.id)}>
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
              usePreferences.setState({ group: name });
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
    <Box display="flex" alignItems="center" gap="4px" fontSize="13px">
      <span aria-hidden="true">Counts</span>
      <NumberField label="How many times it counts" hidden unit="×" width={3.7} digits={2} least={0.1} most={10} step={0.5} value={line.weight} onAccept={onSet} />
    </Box>
  );
}

function ShapeOf({ line, onSet }: { line: Reference; onSet: (shape: [number, number] | null) => void }) {
  const known = SHAPES.findIndex(([, shape]) => (shape === null ? line.shape === null : line.shape?.[0] === shape[0] && line.shape[1] === shape[1]));
  const take = (typed: string) => {
    const [width = 0, height = 0] = typed.replaceAll(",", ".").split(/[:x×/]/).map(Number);
    if (!(width > 0 && height > 0)) return "Its true shape: width to height, as 2:3";
    onSet([width, height]);
    return null;
  };
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
      <Box display="flex" alignItems="center" gap="4px" fontSize="13px">
        <span aria-hidden="true">W:H</span>
        <Field label="Its true width to height" hidden width={5.4} shown={line.shape ? line.shape.map((side) => Number(side.toFixed(4))).join(":") : ""} take={take} />
      </Box>
    </>
  );
}
