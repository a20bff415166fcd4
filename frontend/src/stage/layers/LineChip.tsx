import { memo, useLayoutEffect, useRef } from "react";

import type { Kind, Reference } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { Field, NumberField } from "../../parts/NumberField";
import { Choice, Touch } from "../../parts/Touch";
import { deleteLine } from "../../session/desk";
import { usePreferences } from "../../session/preferences";
import { rowOf, sameBesidesPoints } from "../../session/lines";
import { snapNote } from "../../session/notes";
import { recipeNow } from "../../session/session";
import { useDesk, useKnown, useSame, useSession } from "../../session/useSession";
import { Live } from "../Live";
import { useHands, useStage } from "../useStage";
import type { StageModel } from "../stageModel";
import { KIND_NAMES, kindSign, KINDS, paperColour } from "./signs";

/** Shapes that are known by their names; others are typed. */
const SHAPES: [label: string, shape: [number, number] | null][] = [
  ["Proportions unknown", null],
  ["Square", [1, 1]],
  ["A4 portrait (1:√2)", [1, Math.SQRT2]],
  ["A4 landscape (√2:1)", [Math.SQRT2, 1]],
  ["Door, about 2:3", [2, 3]],
];

/** So far a chip lies from its line, and from the edge of the stage. */
const AWAY = 24;
const INSET = 8;

/** The tag beside the line that was just drawn, or is chosen: what it says, and what can be done with it. */
export function LineChip() {
  const selected = useDesk((desk) => (desk.step === "lines" && !desk.byHand && desk.shown !== "before" ? desk.selected : null));
  const line = useKnown(useSame((known) => recipeNow(known)?.references.find((one) => one.id === selected) ?? null, sameLine));
  const number = useKnown((known) => (recipeNow(known)?.references.findIndex((one) => one.id === selected) ?? -1) + 1);
  const busy = useHands((hands) => hands.line.doing !== "nothing" || hands.cursor !== null);
  return line && !busy && <Chip line={line} number={number} />;
}

const sameLine = (a: Reference | null, b: Reference | null) => a === b || (a !== null && b !== null && sameBesidesPoints(a, b));

const Chip = memo(function Chip({ line, number }: { line: Reference; number: number }) {
  const session = useSession();
  const stage = useStage();
  const box = useRef<HTMLDivElement>(null);
  const { id } = line;
  useLayoutEffect(() => {
    const write = () => box.current && place(box.current, stage, id);
    write();
    const ends = [stage.surface.scene.subscribe(write), session.known.subscribe(write)];
    return () => ends.forEach((end) => end());
  }, [stage, session, id, line]);
  return (
    <div ref={box} className="chip" data-chip role="group" aria-label={`Line ${number}`} onKeyDown={(event) => event.stopPropagation()}>
      <div className="chip-head">
        {kindSign(line.kind)}
        <strong style={{ color: paperColour(line.kind) }}>
          {number} {KIND_NAMES[line.kind]}
        </strong>
        <Live className="mono" of={(known) => rowOf(known, id)?.as_taken} />
        <Live className="beside" of={(known) => rowOf(known, id)?.verdict_words} />
      </div>
      <LineActions number={number} line={line} />
    </div>
  );
});

/** Beside its line, on the side with most room, and never over the line or its ends. */
function place(chip: HTMLElement, { session, surface }: StageModel, id: string) {
  const line = recipeNow(session.known.getState())?.references.find((one) => one.id === id);
  const { size } = surface.scene.getState();
  if (!line || !size.width) return;
  const points = line.points.map(surface.stageOf);
  const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)];
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const { offsetWidth: wide, offsetHeight: high } = chip;
  const within = (at: number, side: number, room: number) => Math.min(Math.max(INSET, at), Math.max(INSET, room - side - INSET));
  const [x, y] = [(left + right) / 2, (top + bottom) / 2];
  const sides: { room: number; at: [number, number] }[] = [
    { room: size.width - right - AWAY - wide, at: [right + AWAY, y - high / 2] },
    { room: left - AWAY - wide, at: [left - AWAY - wide, y - high / 2] },
    { room: size.height - bottom - AWAY - high, at: [x - wide / 2, bottom + AWAY] },
    { room: top - AWAY - high - VIEW, at: [x - wide / 2, top - AWAY - high] },
  ];
  const [best] = sides.sort((a, b) => b.room - a.room);
  if (!best) return;
  const [to, down] = [within(best.at[0], wide, size.width), Math.max(VIEW, within(best.at[1], high, size.height))];
  chip.style.transform = `translate(${Math.round(to)}px, ${Math.round(down)}px)`;
}

/** The height of the words over the stage. */
const VIEW = 40;

/** What can be done with the line that is chosen. */
function LineActions({ number, line }: { number: number; line: Reference }) {
  const session = useSession();
  const group = usePreferences((state) => state.group);
  const { id } = line;
  const become = (kind: Kind) => {
    if (kind !== line.kind) void session.do({ do: "kind", line: id, kind, group });
  };
  const note = snapNote(line);
  return (
    <>
      <div className="chip-acts" data-controls>
        <Choice aria-label={`Kind of line ${number}`} value={line.kind} onChange={(event) => become(event.target.value as Kind)}>
          {KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {KIND_NAMES[kind]}
            </option>
          ))}
        </Choice>
        <Weight line={line} onSet={(weight) => void session.do({ do: "weight", line: id, weight })} />
        {line.kind === "receding" && (
          <Choice
            aria-label="Parallel to"
            value={line.group ?? ""}
            onChange={(event) => {
              const name = event.target.value;
              usePreferences.setState({ group: name });
              void session.do({ do: "group", line: id, group: name });
            }}
          >
            {["1", "2", "3", "4"].map((name) => (
              <option key={name} value={name}>
                parallel set {name}
              </option>
            ))}
          </Choice>
        )}
        {line.kind === "rectangle" && <ShapeOf line={line} onSet={(shape) => void session.do({ do: "shape", line: id, shape })} />}
        {line.kind === "straight" && <Touch onClick={() => void session.do({ do: "add point", line: id })}>Add a point</Touch>}
        {note?.laid && <Touch onClick={() => void session.do({ do: "as laid", line: id })}>Undo snap</Touch>}
        {!note?.laid && line.kind !== "straight" && <Touch onClick={() => void session.do({ do: "snap", line: id })}>Snap to edge</Touch>}
        <Touch onClick={() => void session.do({ do: "switch line", line: id, active: !line.active })}>{line.active ? "Ignore" : "Use again"}</Touch>
        <Touch className="danger" onClick={() => deleteLine(session, id)}>
          Delete <kbd aria-hidden="true">Del</kbd>
        </Touch>
      </div>
      {note && (
        <div className="beside">
          {note.refused
            ? `Not snapped: ${note.refused}. Your line is unchanged.`
            : `Snapped to an edge ${note.moved_px?.toFixed(1)} px away, visible along ${Math.round(100 * (note.clarity ?? 0))}% of the line.`}
        </div>
      )}
    </>
  );
}

/** How many times a line counts, as if it had been laid so often. */
function Weight({ line, onSet }: { line: Reference; onSet: (weight: number) => void }) {
  return (
    <div style={{ display: "flex", alignItems: "center", gap: 4, fontSize: "0.8125rem" }}>
      <span aria-hidden="true">Weight</span>
      <NumberField label="Weight of this line; 1 is normal, 2 counts double" hidden unit="×" width={3.7} digits={2} least={LIMITS["weight.weight"][0]} most={LIMITS["weight.weight"][1]} step={0.5} value={line.weight} onAccept={onSet} />
    </div>
  );
}

function ShapeOf({ line, onSet }: { line: Reference; onSet: (shape: [number, number] | null) => void }) {
  const known = SHAPES.findIndex(([, shape]) => (shape === null ? line.shape === null : line.shape?.[0] === shape[0] && line.shape[1] === shape[1]));
  const take = (typed: string) => {
    const [width = 0, height = 0] = typed.replaceAll(",", ".").split(/[:x×/]/).map(Number);
    if (!(width > 0 && height > 0)) return "Enter its true width to height, for example 2:3";
    onSet([width, height]);
    return null;
  };
  return (
    <>
      <Choice aria-label="True proportions" value={known} onChange={(event) => onSet(SHAPES[Number(event.target.value)]?.[1] ?? null)}>
        {known < 0 && <option value={-1}>Custom</option>}
        {SHAPES.map(([label], at) => (
          <option key={label} value={at}>
            {label}
          </option>
        ))}
      </Choice>
      <div style={{ display: "flex", alignItems: "center", gap: 4, fontSize: "0.8125rem" }}>
        <span aria-hidden="true">Width : height</span>
        <Field label="True width to height" hidden width={5.4} shown={line.shape ? line.shape.map((side) => Number(side.toFixed(4))).join(":") : ""} take={take} />
      </div>
    </>
  );
}
