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

/** The frame moved by (dx, dy), or as near to there as it can get without leaving the outline. */
export function moveFrame(rect: Rect, dx: number, dy: number, outline: readonly Point[]): Rect {
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
  wanted = Math.max(wanted, SMALLEST_SIDE, SMALLEST_SIDE * ratio);
  // Along each outward normal the far corner reaches a fixed amount for every pixel of width.
  for (const { nx, ny, offset } of halfPlanes(outline)) {
    const reach = (nx * sx + Math.abs(nx)) / 2 + (ny * sy + Math.abs(ny)) / 2 / ratio;
    const room = offset - (nx * anchor[0] + ny * anchor[1]);
    if (reach > 1e-9) wanted = Math.min(wanted, room / reach);
  }
  const w = Math.max(1, Math.floor(wanted));
  const h = Math.max(1, Math.floor(wanted / ratio));
  return [anchor[0] - (w * (1 - sx)) / 2, anchor[1] - (h * (1 - sy)) / 2, w, h];
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
