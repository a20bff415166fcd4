import type { Action, Recipe, Reference } from "../../api/client";
import { freeId } from "../../session/ahead";
import { around } from "../../session/around";
import { pair, type Point } from "../../session/mesh";
import type { LayKind } from "../../session/model";
import { usePreferences } from "../../session/preferences";
import type { Session } from "../../session/session";

/** What the hand holds: one point of a line (by its number) or the whole of it. */
export interface Hold {
  part: number | "all";
  line: Reference;
}

/** `placed`: the points of a new line that are set already; `to`: where the hand is now. */
export type Hand =
  | { doing: "nothing" }
  | { doing: "laying"; placed: Point[]; to: Point; armed: boolean }
  | { doing: "moving"; hold: Hold; from: Point; to: Point; armed: boolean };

export const EMPTY_HAND: Hand = { doing: "nothing" };
const REACH = 20;
const BODY_REACH = 9;

interface OnStage {
  line: Reference;
  points: Point[];
}

/** What lies under a point of the stage: the nearest point of a line, else a number, else a line. */
export function hit(lines: OnStage[], at: Point): { hold: Hold; body: boolean } | null {
  const far = (point: Point) => Math.hypot(point[0] - at[0], point[1] - at[1]);
  let best: { hold: Hold; body: boolean; distance: number } | null = null;
  const offer = (hold: Hold, body: boolean, distance: number, reach: number) => {
    if (distance <= reach && (!best || distance < best.distance)) best = { hold, body, distance };
  };
  for (const { line, points } of lines) {
    points.forEach((point, part) => offer({ line, part }, false, far(point), REACH));
    offer({ line, part: "all" }, false, far(middleOf(line.kind, points)), 13);
  }
  if (best) return best;
  for (const { line, points } of lines)
    for (const [a, b] of partsOf(line.kind, points)) offer({ line, part: "all" }, true, distanceToLine(at, a, b), BODY_REACH);
  return best;
}

/** The straight parts that a reference is drawn with. */
export function partsOf(kind: string, points: readonly Point[]): [Point, Point][] {
  const closed = kind === "rectangle" ? [...points, around(points, 0)] : points;
  return closed.slice(1).map((to, at) => [around(closed, at), to]);
}

/** Where the number of a reference sits, which is also where the whole of it is grabbed. */
export function middleOf(kind: string, points: readonly Point[]): Point {
  const parts = partsOf(kind, points);
  if (kind === "rectangle") {
    const sum = points.reduce<Point>(([x, y], [px, py]) => [x + px, y + py], [0, 0]);
    return [sum[0] / points.length, sum[1] / points.length];
  }
  const [a, b] = around(parts, Math.floor((parts.length - 1) / 2));
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
}

function distanceToLine(at: Point, a: Point, b: Point): number {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const share = Math.min(1, Math.max(0, ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(at[0] - a[0] - share * dx, at[1] - a[1] - share * dy);
}

/** How many points a kind needs at least; a rectangle has just these. */
const pointsFor = (kind: LayKind): number => (kind === "rectangle" ? 4 : kind === "straight" ? 3 : 2);

type Pointer = NonNullable<Extract<Action, { do: "move" }>["by"]>;

/** Where a click, or Enter, leads: one point more, or the line is whole. A straight thing ends on its last point. */
export function placeNext(kind: LayKind, placed: readonly Point[], at: Point, onLast: boolean): { points: Point[]; whole: boolean } {
  if (kind === "straight") {
    if (onLast && placed.length >= pointsFor(kind)) return { points: [...placed], whole: true };
    return { points: onLast ? [...placed] : [...placed, at], whole: false };
  }
  const points = [...placed, at];
  return { points, whole: points.length >= pointsFor(kind) };
}

/** How a hand points: by what, and at which zoom. */
export interface Pointing {
  by: Pointer;
  /** CSS px per photo pixel. */
  scale: number;
}

/** What the hand does to a recipe; null when there is nothing to see of it yet. */
function outcome(recipe: Recipe, hand: Hand, kind: LayKind, pointing: Pointing): Extract<Action, { do: "lay" | "move" }> | null {
  if (hand.doing === "nothing") return null;
  if (hand.doing === "moving") return moved(hand.hold, hand.to[0] - hand.from[0], hand.to[1] - hand.from[1], pointing);
  const points = hand.armed ? withoutTwins([...hand.placed, hand.to]) : dragged(kind, around(hand.placed, 0), hand.to);
  const [first, last] = [around(points, 0), around(points, -1)];
  if (points.length < pointsFor(kind) || Math.hypot(last[0] - first[0], last[1] - first[1]) < 1) return null;
  const { group } = usePreferences.getState();
  return { do: "lay", line: freeId(recipe.references, "r"), kind, points: points.map(pair), group, ...pointing };
}

/** One point of a line moved, or the whole of it. */
export function moved({ line, part }: Hold, dx: number, dy: number, pointing: Pointing): Extract<Action, { do: "move" }> {
  const points = line.points.map(([x, y], at): [number, number] => (part === "all" || part === at ? [x + dx, y + dy] : [x, y]));
  return { do: "move", line: line.id, points, ...pointing };
}

/** What a drag from one point to another stands for: a line, a straight thing with a middle to pull, a box. */
function dragged(kind: LayKind, from: Point, to: Point): Point[] {
  if (kind === "straight") return [from, [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2], to];
  if (kind !== "rectangle") return [from, to];
  return [from, [to[0], from[1]], to, [from[0], to[1]]];
}

const withoutTwins = (points: Point[]) =>
  points.filter(([x, y], at) => at === 0 || Math.hypot(x - around(points, at - 1)[0], y - around(points, at - 1)[1]) >= 1);

/** Show what the hand does: the readings follow, the picture holds still. */
export function showHand(session: Session, recipe: Recipe, hand: Hand, kind: LayKind, pointing: Pointing) {
  const action = outcome(recipe, hand, kind, pointing);
  if (action) session.look(action, false);
}

/**
 * Let go: one revision, the real edge under the line found first where that is wanted. The id of the line, or null
 * when nothing came of it.
 */
export function letGo(session: Session, recipe: Recipe, hand: Hand, kind: LayKind, pointing: Pointing): string | null {
  const action = outcome(recipe, hand, kind, pointing);
  if (!action) {
    session.dropDraft();
    return null;
  }
  void session.do({ ...action, snap: usePreferences.getState().snap });
  return action.line;
}
