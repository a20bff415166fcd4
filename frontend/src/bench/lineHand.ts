import type { Recipe, Reference } from "../api/client";
import { type Change, dropDraft, keep, look, type LayKind } from "./benchStore";
import type { Point } from "./mesh";
import { kindFor, movedLine, newReference, replaced, withReferences } from "./recipeEdits";

/** What the hand holds: an end (0 or 1) of a line or the whole of it, or a line that is being laid. */
export interface Hold {
  part: 0 | 1 | "all";
  line: Reference;
}

export type Hand =
  | { doing: "nothing" }
  | { doing: "laying"; from: Point; to: Point; armed: boolean }
  | { doing: "moving"; hold: Hold; from: Point; to: Point; armed: boolean };

export const EMPTY_HAND: Hand = { doing: "nothing" };
const REACH = 20;
const BODY_REACH = 9;

interface OnStage {
  line: Reference;
  a: Point;
  b: Point;
}

/** What lies under a point of the stage: the nearest end, else a number, else a line. */
export function hit(lines: OnStage[], at: Point, middle: (a: Point, b: Point) => Point): { hold: Hold; body: boolean } | null {
  const far = (point: Point) => Math.hypot(point[0] - at[0], point[1] - at[1]);
  let best: { hold: Hold; body: boolean; distance: number } | null = null;
  const offer = (hold: Hold, body: boolean, distance: number, reach: number) => {
    if (distance <= reach && (!best || distance < best.distance)) best = { hold, body, distance };
  };
  for (const { line, a, b } of lines) {
    offer({ line, part: 0 }, false, far(a), REACH);
    offer({ line, part: 1 }, false, far(b), REACH);
    offer({ line, part: "all" }, false, far(middle(a, b)), 13);
  }
  if (best) return best;
  for (const { line, a, b } of lines) offer({ line, part: "all" }, true, distanceToLine(at, a, b), BODY_REACH);
  return best;
}

function distanceToLine(at: Point, a: Point, b: Point): number {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const share = Math.min(1, Math.max(0, ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(at[0] - a[0] - share * dx, at[1] - a[1] - share * dy);
}

interface Outcome {
  line: Reference;
  change: Change;
  action: string;
}

/** What the hand makes of a recipe; null when there is nothing to see of it yet. */
function outcome(recipe: Recipe, hand: Hand, kind: LayKind, sigma: number): Outcome | null {
  if (hand.doing === "nothing") return null;
  const { from, to } = hand;
  if (hand.doing === "moving") {
    const line = movedLine(hand.hold.line, hand.hold.part, to[0] - from[0], to[1] - from[1], sigma);
    const number = recipe.references.findIndex((one) => one.id === line.id) + 1;
    if (number === 0 || sameEnds(line)) return null;
    return { line, change: (now) => replaced(now, line), action: `Moved line ${number}` };
  }
  if (Math.hypot(to[0] - from[0], to[1] - from[1]) < 1) return null;
  const line = newReference(recipe, kindFor(kind, from, to), from, to, sigma);
  const change: Change = (now) => withReferences(now, [...now.references, line]);
  return { line, change, action: `Laid line ${recipe.references.length + 1}, ${line.kind}` };
}

/** Show what the hand does: the readings follow, the picture holds still. */
export function showHand(recipe: Recipe, hand: Hand, kind: LayKind, sigma: number) {
  const wanted = outcome(recipe, hand, kind, sigma);
  if (wanted) look(wanted.change, false);
}

/** Let go: one revision. The id of the line, or null when nothing came of it. */
export function letGo(recipe: Recipe, hand: Hand, kind: LayKind, sigma: number): string | null {
  const wanted = outcome(recipe, hand, kind, sigma);
  if (!wanted) {
    dropDraft();
    return null;
  }
  void keep(wanted.change, wanted.action);
  return wanted.line.id;
}

const sameEnds = ({ points }: Reference) => points[0]![0] === points[1]![0] && points[0]![1] === points[1]![1];
