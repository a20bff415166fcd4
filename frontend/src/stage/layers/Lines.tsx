import { useRef } from "react";

import type { Kind, Reference } from "../../api/client";
import { bentBetween, isBent, type Mesh, type Point, toCorrected } from "../../session/mesh";
import { tellsLens } from "../../session/desk";
import { readNow, recipeNow, shownNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { middleOf, partsOf } from "../tools/lineHand";
import { lineKey } from "../tools/lineTool";
import { useHands, useScene } from "../useStage";
import type { Scene } from "../view/surface";
import { toStage } from "../view/view";
import { OVER } from "./shapes";
import { dashOf, endMark, KIND_NAMES, pictureColour } from "./signs";
import { INK } from "../../parts/theme";

const CASING = "rgba(20,22,26,.82)";

interface DrawnLine {
  line: Reference;
  number: number;
  /** Its points on the stage. */
  points: Point[];
  /** The way from one to the next, which on the photo as taken need not be straight. */
  along: Point[];
}

/** What is picked of a state, or, while this waits, what was picked before. */
function useHeld<State, Picked>(waits: boolean, pick: (state: State) => Picked): (state: State) => Picked {
  const last = useRef<{ picked: Picked } | null>(null);
  return (state) => {
    if (!waits || !last.current) last.current = { picked: pick(state) };
    return last.current.picked;
  };
}

/** The references where they lie on the stage; while this waits, where they lay before. */
function useDrawn(waits = false): { lines: DrawnLine[]; scene: Scene } {
  const scene = useScene(useHeld(waits, (state) => state));
  const references = useKnown(useHeld(waits, (known) => recipeNow(known)?.references));
  const step = useDesk((desk) => desk.step);
  const lensOnly = useDesk(tellsLens);
  const rows = useKnown(useHeld(waits, (known) => readNow(known)?.lines));
  const shown = useDesk((desk) => desk.shown);
  // On the photo as taken, what is straight in the world runs along the lens's bend.
  const bent = useKnown(useHeld(waits, (known) => shownNow(known)?.mesh ?? null));
  const bend = shown !== "corrected" && bent && isBent(bent) ? bent : null;
  const { mesh } = scene;
  if (!mesh || !references || shown === "before" || (step !== "lines" && step !== "lens")) return { lines: [], scene };
  const lines = references.flatMap((line, index): DrawnLine[] => {
    if (lensOnly && line.kind !== "straight") return [];
    const points = line.points.map((point) => stageOf(scene, mesh, point));
    const paths = pathsOf(line, rows?.[index]?.paths);
    const along = paths ? paths.map((point) => stageOf(scene, mesh, point)) : bend ? alongBend(scene, mesh, bend, line.kind, line.points) : points;
    return [{ line, number: index + 1, points, along }];
  });
  return { lines, scene };
}

/** Where a line runs on the photo that is no straight one there; none while the line has been moved on since. */
function pathsOf(line: Reference, paths: readonly (readonly Point[])[] | null | undefined): Point[] | null {
  const [begin, here] = [paths?.[0]?.[0], line.points[0]];
  const [end, there] = [paths?.[paths.length - 1], line.points[line.points.length - 1]];
  if (!paths || !begin || !here || !end || !there) return null;
  const last = line.kind === "rectangle" ? end[0] : end[end.length - 1];
  const still = last && Math.hypot(begin[0] - here[0], begin[1] - here[1]) < 0.5 && Math.hypot(last[0] - there[0], last[1] - there[1]) < 0.5;
  return still ? paths.flat() : null;
}

const stageOf = ({ view, size }: Scene, mesh: Mesh, point: Point): Point => toStage(view, size, toCorrected(mesh, point));

const alongBend = (scene: Scene, mesh: Mesh, bend: Mesh, kind: Kind, points: readonly Point[]): Point[] =>
  partsOf(kind, points).flatMap(([a, b]) => bentBetween(bend, a, b).map((point) => stageOf(scene, mesh, point)));

/** The references on the picture: a coloured line on a dark casing, end marks of their kind, and a number. */
export function Lines() {
  const { lines, scene } = useDrawn();
  const selected = useDesk((desk) => desk.selected);
  const pointed = useDesk((desk) => desk.pointed);
  const led = useKnown((known) => known.draft !== null);
  const hand = useHands((hands) => hands.line);
  const cursor = useHands((hands) => hands.cursor);
  const placed = useHands((hands) => hands.placed);
  const { mesh } = scene;
  // A line that is not whole yet: what is placed of it, up to the hand.
  const laid = led ? [] : hand.doing === "laying" ? [...hand.placed, hand.to] : cursor && placed.length ? [...placed, cursor] : [];
  const points = mesh ? laid.map((point) => stageOf(scene, mesh, point)) : [];
  return (
    <svg aria-hidden="true" style={OVER}>
      {lines.map(({ line, number, points, along }) => (
        <g key={line.id} fill="none" opacity={line.active ? 1 : 0.5} data-lit={line.id === selected || line.id === pointed}>
          {drawn(line.kind, number, points, along, line.id === selected || line.id === pointed)}
        </g>
      ))}
      {points.length > 1 && (
        <g fill="none" data-lit>
          {drawn("witness", null, points, points, true)}
        </g>
      )}
    </svg>
  );
}

/** One reference as elements: a component for each would be drawn anew one by one with every move. */
function drawn(kind: Kind, number: number | null, points: Point[], along: Point[], lit: boolean) {
  const colour = pictureColour(kind);
  const mark = endMark(kind);
  const [x, y] = middleOf(kind, points);
  const path = `M${along.map((point) => point.join(" ")).join("L")}${kind === "rectangle" ? "Z" : ""}`;
  const all = kind === "straight" || kind === "rectangle" || number === null;
  return (
    <>
      <path d={path} stroke={CASING} strokeWidth={lit ? 8 : 5} strokeLinejoin="round" strokeLinecap="round" />
      <path d={path} stroke={colour} strokeWidth={lit ? 3.4 : 2} strokeDasharray={dashOf(kind)} />
      {points.map(
        (point, at) =>
          (all || at === 0 || at === points.length - 1) && (
            <g key={at} transform={`translate(${point.join(" ")}) rotate(${leaving(kind, points, at)})`}>
              <path d={mark.path} stroke={CASING} strokeWidth={6} />
              <path d={mark.path} stroke={colour} strokeWidth={2.4} fill={mark.filled ? colour : "none"} />
            </g>
          ),
      )}
      {number !== null && (
        <g transform={`translate(${x} ${y})`}>
          <rect x={-11} y={-11} width={22} height={22} rx={4} fill={INK} stroke={lit ? colour : "none"} strokeWidth={2} />
          <text y={4.5} fill={colour} fontSize={13} fontWeight={700} textAnchor="middle">
            {number}
          </text>
        </g>
      )}
    </>
  );
}

/** The direction in degrees in which a mark is turned: along the line, the same way at both ends. */
function leaving(kind: Kind, points: Point[], at: number): number {
  const last = points.length - 1;
  const [from, to] = kind === "rectangle" ? [at, (at + 1) % points.length] : [0, last];
  const [a, b] = [points[from] ?? [0, 0], points[to] ?? [0, 0]];
  return (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI;
}

const ENDS = ["first end", "second end"];
const CORNERS = ["top left corner", "top right corner", "bottom right corner", "bottom left corner"];

function partName(line: Reference, at: number): string {
  const names = line.kind === "rectangle" ? CORNERS : line.points.length === 2 ? ENDS : [];
  return names[at] ?? `point ${at + 1}`;
}

/** Every line as focusable elements over the canvas: the whole, and each point. The pointer is the stage's. */
export function LineKeys() {
  const session = useSession();
  const led = useKnown(({ draft }) => draft?.follow ?? false);
  const held = useHands((hands) => hands.line.doing !== "nothing");
  // What the pointer moves needs no place for the focus: the elements wait where they are until it lets go.
  const waits = led || held;
  const { lines } = useDrawn(waits);
  const rows = useKnown(useHeld(waits, (known) => readNow(known)?.lines));
  const onFocus = (id: string) => session.desk.setState({ selected: id });
  return lines.map(({ line, number, points }) => {
    const row = rows?.find((one) => one.id === line.id);
    const reading = row ? `${row.as_taken}, ${row.verdict_words}` : "";
    const parts: [number | "all", Point, string][] = [
      ["all", middleOf(line.kind, points), `Line ${number}, ${KIND_NAMES[line.kind]}: ${reading}`],
      ...points.map((point, at): [number, Point, string] => [at, point, `Line ${number}, ${partName(line, at)}`]),
    ];
    return parts.map(([part, [x, y], label]) => (
      <button
        key={`${line.id} ${part}`}
        type="button"
        aria-label={label}
        aria-description="Arrow keys move it; Delete removes the line."
        data-line={line.id}
        data-part={part}
        onFocus={() => onFocus(line.id)}
        onKeyDown={(event) => {
          if (!lineKey(session, event, line.id, part)) return;
          event.preventDefault();
          event.stopPropagation();
        }}
        style={{ ...TARGET, transform: `translate(${x - 20}px, ${y - 20}px)` }}
      />
    ));
  });
}

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
