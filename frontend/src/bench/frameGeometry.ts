import type { Point } from "./mesh";

/** A frame in corrected pixels, as the recipe writes it. */
export type Rect = readonly [x: number, y: number, width: number, height: number];

interface HalfPlane {
  nx: number;
  ny: number;
  offset: number;
}

export const SMALLEST_SIDE = 16;

/** The inside of the convex outline that the core gave, as half planes with outward normals. */
export function halfPlanes(outline: readonly Point[]): HalfPlane[] {
  const middle = [0, 1].map((k) => outline.reduce((sum, point) => sum + point[k as 0 | 1], 0) / outline.length);
  return outline.map((from, index) => {
    const to = outline[(index + 1) % outline.length]!;
    const length = Math.hypot(to[0] - from[0], to[1] - from[1]) || 1;
    let [nx, ny] = [(to[1] - from[1]) / length, (from[0] - to[0]) / length];
    let offset = nx * from[0] + ny * from[1];
    if (nx * middle[0]! + ny * middle[1]! > offset) [nx, ny, offset] = [-nx, -ny, -offset];
    return { nx, ny, offset };
  });
}

/** A convex outline has the photo's corners and one more for each cut; with more it is a curve's fine polygon. */
const MOST_CORNERS = 8;

/** Halvings by which a place along a curve is found. */
const HALVINGS = 24;

/** Whether a frame lies in an outline that need not be convex: no edge of it enters, and its middle is inside. */
export function fits([x, y, width, height]: Rect, outline: readonly Point[]): boolean {
  const [cx, cy, halfWidth, halfHeight] = [x + width / 2, y + height / 2, width / 2, height / 2];
  let inside = false;
  for (let at = 0; at < outline.length; at++) {
    const [a, b] = [outline[at]!, outline[(at + 1) % outline.length]!];
    const [ax, ay, bx, by] = [a[0] - cx, a[1] - cy, b[0] - cx, b[1] - cy];
    const [dx, dy] = [bx - ax, by - ay];
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

/** As far as the frame can go straight there, then sliding along either axis. */
function slide(rect: Rect, dx: number, dy: number, outline: readonly Point[]): Rect {
  let [x, y] = rect;
  const to: Point = [x + dx, y + dy];
  for (const way of [[1, 1], [1, 0], [0, 1], [1, 0], [0, 1]] as const) {
    const [goX, goY] = [(to[0] - x) * way[0], (to[1] - y) * way[1]];
    const share = farthest((part) => fits([x + goX * part, y + goY * part, rect[2], rect[3]], outline));
    [x, y] = [x + goX * share, y + goY * share];
  }
  return [x, y, rect[2], rect[3]];
}

/** The frame moved by (dx, dy), or as near to there as it can get without leaving the outline. */
export function moveFrame(rect: Rect, dx: number, dy: number, outline: readonly Point[]): Rect {
  if (outline.length > MOST_CORNERS) return slide(rect, dx, dy, outline);
  const [x, y, width, height] = rect;
  const planes = halfPlanes(outline).map(({ nx, ny, offset }) => ({
    nx,
    ny,
    offset: offset - (Math.abs(nx) * width + Math.abs(ny) * height) / 2,
  }));
  const centre = nearestInside([x + dx + width / 2, y + dy + height / 2], planes);
  return [centre[0] - width / 2, centre[1] - height / 2, width, height];
}

/**
 * The frame resized with its ratio locked: `sx`, `sy` (-1, 0, 1) name the corner or side that is dragged by
 * (dx, dy); the opposite one stays. Whole pixels, inside the outline.
 */
export function resizeFrame(
  rect: Rect,
  [sx, sy]: Point,
  dx: number,
  dy: number,
  ratio: number,
  outline: readonly Point[],
): Rect {
  const [x, y, width, height] = rect;
  const anchor: Point = [x + (width * (1 - sx)) / 2, y + (height * (1 - sy)) / 2];
  const byWidth = width + sx * dx;
  const byHeight = (height + sy * dy) * ratio;
  let wanted = sx === 0 ? byHeight : sy === 0 ? byWidth : (byWidth + byHeight) / 2;
  const smallest = Math.max(SMALLEST_SIDE, SMALLEST_SIDE * ratio);
  wanted = Math.max(wanted, smallest);
  const about = (w: number, h: number): Rect => [anchor[0] - (w * (1 - sx)) / 2, anchor[1] - (h * (1 - sy)) / 2, w, h];
  if (outline.length > MOST_CORNERS) {
    const span = wanted - smallest;
    wanted = smallest + span * farthest((share) => fits(about(smallest + span * share, (smallest + span * share) / ratio), outline));
    return about(Math.max(1, Math.floor(wanted)), Math.max(1, Math.floor(wanted / ratio)));
  }
  // Along each outward normal the far corner reaches a fixed amount for every pixel of width.
  for (const { nx, ny, offset } of halfPlanes(outline)) {
    const reach = (nx * sx + Math.abs(nx)) / 2 + (ny * sy + Math.abs(ny)) / 2 / ratio;
    const room = offset - (nx * anchor[0] + ny * anchor[1]);
    if (reach > 1e-9) wanted = Math.min(wanted, room / reach);
  }
  return about(Math.max(1, Math.floor(wanted)), Math.max(1, Math.floor(wanted / ratio)));
}

/** The point of a convex region nearest to `point`: inside, on one edge, or at a corner. */
function nearestInside(point: Point, planes: HalfPlane[]): Point {
  const inside = ([x, y]: Point) => planes.every(({ nx, ny, offset }) => nx * x + ny * y <= offset + 1e-7);
  if (inside(point)) return point;
  const candidates: Point[] = planes.map(({ nx, ny, offset }) => {
    const out = nx * point[0] + ny * point[1] - offset;
    return [point[0] - out * nx, point[1] - out * ny];
  });
  planes.forEach((a, i) =>
    planes.slice(i + 1).forEach((b) => {
      const det = a.nx * b.ny - a.ny * b.nx;
      if (Math.abs(det) > 1e-9)
        candidates.push([(a.offset * b.ny - b.offset * a.ny) / det, (a.nx * b.offset - b.nx * a.offset) / det]);
    }),
  );
  const far = (candidate: Point) => Math.hypot(candidate[0] - point[0], candidate[1] - point[1]);
  return candidates.filter(inside).sort((a, b) => far(a) - far(b))[0] ?? point;
}
