import { LIMITS } from "../../api/limits";
import { around } from "../../session/around";
import type { Point } from "../../session/mesh";

/** A frame in corrected pixels, as the recipe writes it. */
export type Rect = readonly [x: number, y: number, width: number, height: number];

/** Where a frame may lie: inside the outline that the core gave, or with empty corners too. */
export interface Room {
  outline: readonly Point[];
  allowEmpty: boolean;
}

const [SMALLEST_SIDE] = LIMITS["frame.rect.2"];

/** Rounding must not call a frame outside that only touches. */
const TOUCH = 1e-7;

/** Halvings by which a place along a way is found. */
const HALVINGS = 42;

/** Cells are cut down to this many pixels; after that the outline is followed. */
const FINENESS = 0.5;

const MOST_CELLS = 20_000;

/** Whether a frame lies in an outline that need not be convex: no edge of it enters, and its middle is inside. */
export function fits([x, y, width, height]: Rect, outline: readonly Point[]): boolean {
  const cx = x + width / 2;
  const cy = y + height / 2;
  const halfWidth = width / 2 - TOUCH;
  const halfHeight = height / 2 - TOUCH;
  let inside = false;
  // One at a time, and no list of them: this is asked thousands of times while a frame is dragged.
  let before = around(outline, -1);
  for (const point of outline) {
    const ax = before[0] - cx;
    const ay = before[1] - cy;
    const bx = point[0] - cx;
    const by = point[1] - cy;
    const dx = bx - ax;
    const dy = by - ay;
    before = point;
    if (ay > 0 !== by > 0 && ax - (ay * dx) / dy > 0) inside = !inside;
    const apart =
      Math.min(ax, bx) >= halfWidth ||
      Math.max(ax, bx) <= -halfWidth ||
      Math.min(ay, by) >= halfHeight ||
      Math.max(ay, by) <= -halfHeight ||
      Math.abs(ax * dy - ay * dx) >= halfWidth * Math.abs(dy) + halfHeight * Math.abs(dx);
    if (!apart) return false;
  }
  return inside;
}

/** Whether a frame may lie there. With empty corners its middle stays on the picture, so that it is never lost. */
export function lies(rect: Rect, { outline, allowEmpty }: Room): boolean {
  const [x, y, width, height] = rect;
  return fits(allowEmpty ? [x + width / 2, y + height / 2, 0, 0] : rect, outline);
}

/** The farthest share of a way, 0 to 1, up to which it is open. */
function farthest(open: (share: number) => boolean): number {
  if (open(1)) return 1;
  let [yes, no] = [0, 1];
  for (let round = 0; round < HALVINGS; round++) {
    const middle = (yes + no) / 2;
    if (open(middle)) yes = middle;
    else no = middle;
  }
  return yes;
}

/** Of all frames of a cell (the two values about `at`, as far as `reach` each way) all, none or some lie inside. */
type Look = (at: Point, reach: number) => "all" | "none" | "some";

/**
 * The two values nearest to `wanted` that can be had, or `other` when nothing nearer is found: cells of which only
 * some can be had are cut in four, the nearest is looked at first, and what is farther than the best is left out.
 */
function nearest(wanted: Point, other: Point, look: Look): Point {
  const far = (point: Point) => Math.hypot(point[0] - wanted[0], point[1] - wanted[1]);
  const inCell = ([u, v]: Point, reach: number): Point => [
    Math.min(Math.max(wanted[0], u - reach), u + reach),
    Math.min(Math.max(wanted[1], v - reach), v + reach),
  ];
  let best = other;
  let cells = 0;
  const search = (at: Point, reach: number) => {
    if (far(inCell(at, reach)) >= far(best) || ++cells > MOST_CELLS) return;
    const found = look(at, reach);
    if (found === "all") best = inCell(at, reach);
    if (found !== "some") return;
    if (far(at) < far(best) && look(at, 0) === "all") best = at;
    if (reach <= FINENESS) return;
    const half = reach / 2;
    const quarters: Point[] = [[at[0] - half, at[1] - half], [at[0] + half, at[1] - half], [at[0] - half, at[1] + half], [at[0] + half, at[1] + half]];
    for (const quarter of quarters.sort((a, b) => far(inCell(a, half)) - far(inCell(b, half)))) search(quarter, half);
  };
  search(wanted, far(other));
  return along(wanted, best, (point) => look(point, 0) === "all");
}

/**
 * Far from the hand many places are all but equally near to it: from `best` the outline is followed, a step aside and
 * then straight to the hand as far as that goes, while it leads nearer.
 */
function along(wanted: Point, best: Point, open: (point: Point) => boolean): Point {
  const far = (point: Point) => Math.hypot(point[0] - wanted[0], point[1] - wanted[1]);
  for (let step = 2; step > 0.05; step /= 2)
    for (const way of [step, -step])
      for (let count = 0; count < 8; count++) {
        const [ux, uy] = [(wanted[0] - best[0]) / far(best), (wanted[1] - best[1]) / far(best)];
        const aside: Point = [best[0] - way * uy - step * ux, best[1] + way * ux - step * uy];
        if (!open(aside)) break;
        const there = (share: number): Point => [aside[0] + (wanted[0] - aside[0]) * share, aside[1] + (wanted[1] - aside[1]) * share];
        const next = there(farthest((share) => open(there(share))));
        if (far(next) > far(best) - 1e-9) break;
        best = next;
      }
  return best;
}

/** The frame moved by (dx, dy), or as near to there as it can get: along the outline, if that is in the way. */
export function moveFrame(rect: Rect, dx: number, dy: number, room: Room): Rect {
  const [x, y, width, height] = rect;
  const to = (u: number, v: number): Rect => [u, v, width, height];
  if (lies(to(x + dx, y + dy), room)) return to(x + dx, y + dy);
  if (room.allowEmpty) {
    const share = farthest((part) => lies(to(x + dx * part, y + dy * part), room));
    return to(x + dx * share, y + dy * share);
  }
  const look: Look = ([u, v], reach) => {
    if (fits([u - reach, v - reach, width + 2 * reach, height + 2 * reach], room.outline)) return "all";
    const [least, low] = [width - 2 * reach, height - 2 * reach];
    return least > 0 && low > 0 && !fits([u + reach, v + reach, least, low], room.outline) ? "none" : "some";
  };
  return to(...nearest([x + dx, y + dy], [x, y], look));
}

/**
 * The frame resized: `sx`, `sy` (-1, 0, 1) name the corner or side that is dragged by (dx, dy); the opposite one
 * stays. `ratio` (width : height) is kept, null: free. Whole pixels.
 */
export function resizeFrame(rect: Rect, [sx, sy]: Point, dx: number, dy: number, ratio: number | null, room: Room): Rect {
  const [x, y, width, height] = rect;
  const anchor: Point = [x + (width * (1 - sx)) / 2, y + (height * (1 - sy)) / 2];
  const about = (w: number, h: number): Rect => [anchor[0] - (w * (1 - sx)) / 2, anchor[1] - (h * (1 - sy)) / 2, w, h];
  const whole = (w: number, h: number): Rect => about(Math.max(1, Math.floor(w + TOUCH)), Math.max(1, Math.floor(h + TOUCH)));
  if (ratio !== null) {
    const byWidth = width + sx * dx;
    const byHeight = (height + sy * dy) * ratio;
    const smallest = Math.max(SMALLEST_SIDE, SMALLEST_SIDE * ratio);
    const wanted = Math.max(sx === 0 ? byHeight : sy === 0 ? byWidth : (byWidth + byHeight) / 2, smallest);
    const least = Math.min(smallest, wanted, width);
    const share = farthest((part) => lies(about(least + (wanted - least) * part, (least + (wanted - least) * part) / ratio), room));
    const found = least + (wanted - least) * share;
    return whole(found, found / ratio);
  }
  const to: Point = [Math.max(SMALLEST_SIDE, width + sx * dx), Math.max(SMALLEST_SIDE, height + sy * dy)];
  if (lies(about(...to), room)) return whole(...to);
  if (sx === 0 || sy === 0 || room.allowEmpty) {
    const share = farthest((part) => lies(about(width + (to[0] - width) * part, height + (to[1] - height) * part), room));
    return whole(width + (to[0] - width) * share, height + (to[1] - height) * share);
  }
  // The anchor stays, so the larger frame holds the smaller one.
  const look: Look = ([w, h], reach) => {
    if (w + reach < 1 || h + reach < 1) return "none";
    if (fits(about(Math.max(1, w + reach), Math.max(1, h + reach)), room.outline)) return w - reach < 1 || h - reach < 1 ? "some" : "all";
    return fits(about(Math.max(1, w - reach), Math.max(1, h - reach)), room.outline) ? "some" : "none";
  };
  return whole(...nearest(to, [width, height], look));
}
