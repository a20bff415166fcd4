import { around } from "../../session/around";
import type { Recipe, Reference } from "../../api/client";
import type { Point } from "../../session/mesh";
import type { Change, LayKind } from "../../session/model";
import { usePreferences } from "../../session/preferences";
import { dragged, holdsTogether, kindFor, movedLine, newReference, pointsFor, replaced, withRectangleFree, withReferences } from "../../session/recipeEdits";
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

/** Where a click, or Enter, leads: one point more, or the line is whole. A straight thing ends on its last point. */
export function placeNext(kind: LayKind, placed: readonly Point[], at: Point, onLast: boolean): { points: Point[]; whole: boolean } {
  if (kind === "straight") {
    if (onLast && placed.length >= pointsFor(kind)) return { points: [...placed], whole: true };
    return { points: onLast ? [...placed] : [...placed, at], whole: false };
  }
  const points = [...placed, at];
  return { points, whole: points.length >= pointsFor(kind) };
}

interface Outcome {
  line: Reference;
  change: Change;
  action: string;
}

/** What the hand makes of a recipe; null when there is nothing to see of it yet. */
function outcome(recipe: Recipe, hand: Hand, kind: LayKind, sigma: number): Outcome | null {
  if (hand.doing === "nothing") return null;
  if (hand.doing === "moving") {
    const { from, to } = hand;
    const line = movedLine(hand.hold.line, hand.hold.part, to[0] - from[0], to[1] - from[1], sigma);
    const number = recipe.references.findIndex((one) => one.id === line.id) + 1;
    if (number === 0 || !holdsTogether(line)) return null;
    return { line, change: (now) => replaced(now, line), action: `Moved line ${number}` };
  }
  const points = hand.armed ? [...hand.placed, hand.to] : dragged(kind, around(hand.placed, 0), hand.to);
  const whole = hand.armed ? withoutTwins(points) : points;
  const [first, last] = [around(whole, 0), around(whole, -1)];
  if (whole.length < pointsFor(kind) || Math.hypot(last[0] - first[0], last[1] - first[1]) < 1) return null;
  const line = newReference(recipe, kindFor(kind, first, last), whole, sigma, usePreferences.getState().group);
  if (!holdsTogether(line)) return null;
  const change: Change = (now) => withRectangleFree(withReferences(now, [...now.references, line]), line);
  return { line, change, action: `Laid line ${recipe.references.length + 1}, ${line.kind}` };
}

const withoutTwins = (points: Point[]) =>
  points.filter(([x, y], at) => at === 0 || Math.hypot(x - around(points, at - 1)[0], y - around(points, at - 1)[1]) >= 1);

/** Show what the hand does: the readings follow, the picture holds still. */
export function showHand(session: Session, recipe: Recipe, hand: Hand, kind: LayKind, sigma: number) {
  const wanted = outcome(recipe, hand, kind, sigma);
  if (wanted) session.look(wanted.change, false);
}

/**
 * Let go: one revision, the real edge under the line found first where that is wanted. The id of the line, or null
 * when nothing came of it.
 */
export function letGo(session: Session, recipe: Recipe, hand: Hand, kind: LayKind, sigma: number): string | null {
  const wanted = outcome(recipe, hand, kind, sigma);
  if (!wanted) {
    session.dropDraft();
    return null;
  }
  const { line } = wanted;
  const snapped = usePreferences.getState().snap && line.kind !== "straight";
  void session.keep(wanted.change, wanted.action, snapped ? [line.id] : []);
  return line.id;
}
