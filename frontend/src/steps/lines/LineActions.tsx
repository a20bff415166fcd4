import type { Kind, Reference } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { Field, NumberField } from "../../parts/NumberField";
import { Choice, Touch } from "../../parts/Touch";
import { deleteLine } from "../../session/desk";
import { usePreferences } from "../../session/preferences";
import { snapNote } from "../../session/notes";
import { useSession } from "../../session/useSession";
import { KIND_NAMES, KINDS } from "../../stage/layers/signs";

/** Shapes that are known by their names; others are typed. */
const SHAPES: [label: string, shape: [number, number] | null][] = [
  ["Proportions unknown", null],
  ["Square", [1, 1]],
  ["A4 portrait (1:√2)", [1, Math.SQRT2]],
  ["A4 landscape (√2:1)", [Math.SQRT2, 1]],
  ["Door, about 2:3", [2, 3]],
];

/** What can be done with the line that is chosen. */
export function LineActions({ number, line }: { number: number; line: Reference }) {
  const session = useSession();
  const group = usePreferences((state) => state.group);
  const { id } = line;
  const become = (kind: Kind) => {
    if (kind !== line.kind) void session.do({ do: "kind", line: id, kind, group });
  };
  const note = snapNote(line);
  return (
    <div role="group" aria-label={`Line ${number}`} style={{ paddingInline: 16, paddingBottom: 8 }}>
      <div className="row" style={{ gap: 6 }}>
        <Choice flex="1" aria-label={`Kind of line ${number}`} value={line.kind} onChange={(event) => become(event.target.value as Kind)}>
          {KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {KIND_NAMES[kind]}
            </option>
          ))}
        </Choice>
        <Touch
          px="8px"
          fontSize="0.8125rem"
          aria-pressed={!line.active}
          onClick={() => void session.do({ do: "switch line", line: id, active: !line.active })}
        >
          {line.active ? "Ignore" : "Ignored"}
        </Touch>
        <Touch px="8px" fontSize="0.8125rem" onClick={() => deleteLine(session, id)}>
          Delete
        </Touch>
      </div>
      <div className="row" style={{ gap: 6, marginTop: 6, alignItems: "center", flexWrap: "wrap" }}>
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
        {line.kind === "straight" && (
          <Touch px="8px" fontSize="0.8125rem" onClick={() => void session.do({ do: "add point", line: id })}>
            Add a point
          </Touch>
        )}
        {note?.laid && (
          <Touch px="8px" fontSize="0.8125rem" onClick={() => void session.do({ do: "as laid", line: id })}>
            Undo snap
          </Touch>
        )}
        {!note?.laid && line.kind !== "straight" && (
          <Touch px="8px" fontSize="0.8125rem" onClick={() => void session.do({ do: "snap", line: id })}>
            Snap to edge
          </Touch>
        )}
      </div>
      {note && (
        <div style={{ fontSize: "0.75rem", color: "var(--chakra-colors-second)", marginTop: 4 }}>
          {note.refused
            ? `Not snapped: ${note.refused}. Your line is unchanged.`
            : `Snapped to an edge ${note.moved_px?.toFixed(1)} px away, visible along ${Math.round(100 * (note.clarity ?? 0))}% of the line.`}
        </div>
      )}
    </div>
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
