import { memo, useEffect, useRef } from "react";

import type { Kind, Reference } from "../../api/client";
import { readNow, useBench } from "../../session/benchStore";
import { type Hold, middleOf } from "../tools/lineHand";
import type { Point } from "../../session/mesh";
import { dashOf, endMark, pictureColour } from "./signs";

const CASING = "rgba(20,22,26,.82)";

export interface DrawnLine {
  line: Reference;
  number: number;
  /** Its points on the stage. */
  points: Point[];
  /** The way from one to the next where that is not straight. */
  along?: Point[];
}

interface OverlayProps {
  lines: DrawnLine[];
  selected: string | null;
  pointed: string | null;
  /** Points of a line that is not whole yet. */
  laid: Point[] | null;
}

/** The references on the picture: a coloured line on a dark casing, end marks of their kind, and a number. */
export function LinesOverlay({ lines, selected, pointed, laid }: OverlayProps) {
  return (
    <svg aria-hidden="true" style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      {lines.map(({ line, number, points, along }) => (
        <DrawnReference
          key={line.id}
          kind={line.kind}
          number={number}
          points={points}
          along={along ?? points}
          lit={line.id === selected || line.id === pointed}
          off={!line.active}
        />
      ))}
      {laid && <DrawnReference kind="witness" number={null} points={laid} along={laid} lit off={false} />}
    </svg>
  );
}

interface DrawnProps {
  kind: Kind;
  number: number | null;
  points: Point[];
  along: Point[];
  lit: boolean;
  off: boolean;
}

/** Redrawn only when it is another: while one line is moved the others stay. */
const DrawnReference = memo(function DrawnReference({ kind, number, points, along, lit, off }: DrawnProps) {
  const colour = pictureColour(kind);
  const mark = endMark(kind);
  const [x, y] = middleOf(kind, points);
  const path = `M${along.map((point) => point.join(" ")).join("L")}${kind === "rectangle" ? "Z" : ""}`;
  const marked = kind === "straight" || kind === "rectangle" || number === null ? points.map((_, at) => at) : [0, points.length - 1];
  return (
    <g fill="none" opacity={off ? 0.5 : 1} data-lit={lit}>
      <path d={path} stroke={CASING} strokeWidth={lit ? 8 : 5} strokeLinejoin="round" strokeLinecap="round" />
      <path d={path} stroke={colour} strokeWidth={lit ? 3.4 : 2} strokeDasharray={dashOf(kind)} />
      {marked.map((at) => (
        <g key={at} transform={`translate(${points[at]!.join(" ")}) rotate(${leaving(kind, points, at)})`}>
          <path d={mark.path} stroke={CASING} strokeWidth={6} />
          <path d={mark.path} stroke={colour} strokeWidth={2.4} fill={mark.filled ? colour : "none"} />
        </g>
      ))}
      {number !== null && (
        <g transform={`translate(${x} ${y})`}>
          <rect x={-11} y={-11} width={22} height={22} rx={4} fill="#22252a" stroke={lit ? colour : "none"} strokeWidth={2} />
          <text y={4.5} fill={colour} fontSize={13} fontWeight={700} textAnchor="middle">
            {number}
          </text>
        </g>
      )}
    </g>
  );
}, alike);

/** Whether two sets of properties are the same, points compared by their values. */
function alike<T extends { points: Point[]; along?: Point[] }>(before: T, after: T): boolean {
  const { points: a, along: c = [], ...rest } = before;
  const { points: b, along: d = [], ...others } = after;
  const same = Object.entries(rest).every(([key, value]) => Object.is(value, others[key as keyof typeof others]));
  return same && sameplaces(a, b) && sameplaces(c, d);
}

const sameplaces = (a: Point[], b: Point[]) => a.length === b.length && a.every(([x, y], at) => x === b[at]![0] && y === b[at]![1]);

/** The direction in degrees in which a mark is turned: along the line, the same way at both ends. */
function leaving(kind: Kind, points: Point[], at: number): number {
  const last = points.length - 1;
  const [a, b] = kind === "rectangle" ? [points[at]!, points[(at + 1) % points.length]!] : [points[0]!, points[last]!];
  return (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI;
}

interface TargetsProps {
  lines: DrawnLine[];
  onFocus: (id: string) => void;
  onKey: (event: React.KeyboardEvent, id: string, part: Hold["part"]) => void;
}

const ENDS = ["first end", "second end"];
const CORNERS = ["top left corner", "top right corner", "bottom right corner", "bottom left corner"];

function partName(line: Reference, at: number): string {
  if (line.kind === "rectangle") return CORNERS[at]!;
  return line.points.length === 2 ? ENDS[at]! : `point ${at + 1}`;
}

/** Every line as focusable elements over the canvas: the whole, and each point. The pointer is the stage's. */
export function LineTargets({ lines, onFocus, onKey }: TargetsProps) {
  // The handlers know the newest state themselves, so that the first ones serve as well as any later.
  const handlers = useRef({ onFocus, onKey });
  useEffect(() => {
    handlers.current = { onFocus, onKey };
  });
  return lines.map(({ line, number, points }) => (
    <Targets key={line.id} line={line} number={number} points={points} handlers={handlers} />
  ));
}

interface TargetProps {
  line: Reference;
  number: number;
  points: Point[];
  handlers: React.RefObject<Pick<TargetsProps, "onFocus" | "onKey">>;
}

const Targets = memo(function Targets({ line, number, points, handlers }: TargetProps) {
  const row = useBench((state) => readNow(state)?.lines.find((one) => one.id === line.id));
  const reading = row ? `${row.as_taken}, ${row.verdict_words}` : "";
  const parts: [Hold["part"], Point, string][] = [
    ["all", middleOf(line.kind, points), `Line ${number}, ${line.kind}: ${reading}`],
    ...points.map((point, at): [number, Point, string] => [at, point, `Line ${number}, ${partName(line, at)}`]),
  ];
  return parts.map(([part, [x, y], label]) => (
    <button
      key={part}
      type="button"
      aria-label={label}
      aria-description="Arrow keys move it, Delete takes the line away"
      data-line={line.id}
      data-part={part}
      onFocus={() => handlers.current.onFocus(line.id)}
      onKeyDown={(event) => handlers.current.onKey(event, line.id, part)}
      style={{ ...TARGET, transform: `translate(${x - 20}px, ${y - 20}px)` }}
    />
  ));
}, alike);

const TARGET = {
  position: "absolute",
  left: 0,
  top: 0,
  width: 40,
  height: 40,
  borderRadius: 20,
  pointerEvents: "none",
  background: "none",
} as const;
