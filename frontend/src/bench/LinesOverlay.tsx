import type { LineRow, Reference } from "../api/client";
import type { Hold } from "./lineHand";
import type { Point } from "./mesh";
import { endMark, pictureColour } from "./signs";

const CASING = "rgba(20,22,26,.82)";

export interface DrawnLine {
  line: Reference;
  number: number;
  row: LineRow | undefined;
  a: Point;
  b: Point;
}

/** The references on the picture: a coloured line on a dark casing, end marks of their kind, and a number. */
export function LinesOverlay({ lines, selected, laid }: { lines: DrawnLine[]; selected: string | null; laid: [Point, Point] | null }) {
  return (
    <svg aria-hidden="true" style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      {lines.map(({ line, number, a, b }) => (
        <DrawnReference key={line.id} kind={line.kind} number={number} a={a} b={b} selected={line.id === selected} />
      ))}
      {laid && <DrawnReference kind="witness" number={null} a={laid[0]} b={laid[1]} selected />}
    </svg>
  );
}

function DrawnReference({ kind, number, a, b, selected }: { kind: string; number: number | null; a: Point; b: Point; selected: boolean }) {
  const colour = pictureColour(kind);
  const turn = (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI;
  const mark = endMark(kind);
  const middle = middleOf(a, b);
  const path = `M${a[0]} ${a[1]}L${b[0]} ${b[1]}`;
  const dash = kind === "witness" ? "9 6" : undefined;
  return (
    <g fill="none">
      <path d={path} stroke={CASING} strokeWidth={selected ? 7 : 5} strokeLinecap="round" />
      <path d={path} stroke={colour} strokeWidth={selected ? 3 : 2} strokeDasharray={dash} />
      {[a, b].map((end, index) => (
        <g key={index} transform={`translate(${end[0]} ${end[1]}) rotate(${turn})`}>
          <path d={mark.path} stroke={CASING} strokeWidth={6} />
          <path d={mark.path} stroke={colour} strokeWidth={2.4} fill={mark.filled ? colour : "none"} />
        </g>
      ))}
      {number !== null && (
        <g transform={`translate(${middle[0]} ${middle[1]})`}>
          <rect x={-11} y={-11} width={22} height={22} rx={4} fill="#22252a" stroke={selected ? colour : "none"} strokeWidth={2} />
          <text y={4.5} fill={colour} fontSize={13} fontWeight={700} textAnchor="middle">
            {number}
          </text>
        </g>
      )}
    </g>
  );
}

/** Where the number of a line sits: at its middle, which is also where the whole of it is grabbed. */
export const middleOf = (a: Point, b: Point): Point => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];

interface TargetsProps {
  lines: DrawnLine[];
  onFocus: (id: string) => void;
  onKey: (event: React.KeyboardEvent, id: string, part: Hold["part"]) => void;
}

/** Every line as focusable elements over the canvas: the whole, and each end. The pointer is handled by the stage. */
export function LineTargets({ lines, onFocus, onKey }: TargetsProps) {
  return lines.flatMap(({ line, number, row, a, b }) => {
    const reading = row ? `${row.as_taken}, ${row.verdict_words}` : "";
    const parts: [Hold["part"], Point, string][] = [
      ["all", middleOf(a, b), `Line ${number}, ${line.kind}: ${reading}`],
      [0, a, `Line ${number}, first end`],
      [1, b, `Line ${number}, second end`],
    ];
    return parts.map(([part, [x, y], label]) => (
      <button
        key={`${line.id} ${part}`}
        type="button"
        aria-label={label}
        aria-description="Arrow keys move it, Delete takes the line away"
        data-line={line.id}
        data-part={part}
        onFocus={() => onFocus(line.id)}
        onKeyDown={(event) => onKey(event, line.id, part)}
        style={{
          position: "absolute",
          left: 0,
          top: 0,
          width: 40,
          height: 40,
          transform: `translate(${x - 20}px, ${y - 20}px)`,
          borderRadius: 20,
          pointerEvents: "none",
          background: "none",
        }}
      />
    ));
  });
}
