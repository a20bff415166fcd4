import { describe, expect, it } from "vitest";

import { fits, lies, moveFrame, type Rect, resizeFrame, type Room } from "./frameGeometry";
import type { Point } from "../../session/mesh";

interface HalfPlane {
  nx: number;
  ny: number;
  offset: number;
}

/** The inside of a convex outline as half planes with outward normals. */
function halfPlanes(outline: readonly Point[]): HalfPlane[] {
  const middle = [0, 1].map((k) => outline.reduce((sum, point) => sum + point[k as 0 | 1], 0) / outline.length);
  return outline.map((from, index) => {
    const to = outline[(index + 1) % outline.length]!;
    const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
    let [nx, ny] = [(to[1] - from[1]) / length, (from[0] - to[0]) / length];
    let offset = nx * from[0] + ny * from[1];
    if (nx * middle[0]! + ny * middle[1]! > offset) [nx, ny, offset] = [-nx, -ny, -offset];
    return { nx, ny, offset };
  });
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
      if (Math.abs(det) > 1e-9) candidates.push([(a.offset * b.ny - b.offset * a.ny) / det, (a.nx * b.offset - b.nx * a.offset) / det]);
    }),
  );
  const far = (candidate: Point) => Math.hypot(candidate[0] - point[0], candidate[1] - point[1]);
  return candidates.filter(inside).sort((a, b) => far(a) - far(b))[0]!;
}

/** Numbers from 0 to 1 that are the same with every run (Park & Miller's minimal standard generator, 1988). */
function dice(): () => number {
  let state = 20_261;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}

/** A 3000 x 2000 photo turned by 5 degrees about its middle. */
const OUTLINE: Point[] = (() => {
  const angle = (5 * Math.PI) / 180;
  const corners: Point[] = [[-1500, -1000], [1500, -1000], [1500, 1000], [-1500, 1000]];
  return corners.map(([x, y]) => [
    1500 + x * Math.cos(angle) - y * Math.sin(angle),
    1000 + x * Math.sin(angle) + y * Math.cos(angle),
  ]);
})();

function reach(rect: Rect): number {
  const [x, y, width, height] = rect;
  const corners: Point[] = [[x, y], [x + width, y], [x + width, y + height], [x, y + height]];
  return Math.max(
    ...halfPlanes(OUTLINE).flatMap(({ nx, ny, offset }) => corners.map((corner) => nx * corner[0] + ny * corner[1] - offset)),
  );
}

const TURNED: Room = { outline: OUTLINE, allowEmpty: false };
const SMALL: Rect = [1200, 800, 600, 400];

describe("moving the frame", () => {
  it("goes where it is led inside the picture", () => {
    expect(moveFrame(SMALL, 30.5, -12, TURNED)).toEqual([1230.5, 788, 600, 400]);
  });

  it("never leaves the picture and keeps its size", () => {
    for (let way = 0; way < 24; way++) {
      const angle = (way * Math.PI) / 12;
      const moved = moveFrame(SMALL, 5000 * Math.cos(angle), 5000 * Math.sin(angle), TURNED);
      expect(reach(moved)).toBeLessThanOrEqual(1e-6);
      expect(moved.slice(2)).toEqual([600, 400]);
    }
  });

  it("slides along an edge", () => {
    const there = moveFrame(SMALL, 0, -5000, TURNED);
    const along = moveFrame(there, 200, -200, TURNED);
    expect(along[0]).toBeGreaterThan(there[0] + 100);
    expect(reach(along)).toBeLessThanOrEqual(1e-6);
  });

  it("does not care which way round the outline runs", () => {
    const back: Room = { outline: [...OUTLINE].reverse(), allowEmpty: false };
    expect(moveFrame(SMALL, 900, 900, back)[0]).toBeCloseTo(moveFrame(SMALL, 900, 900, TURNED)[0], 6);
  });
});

describe("resizing the frame", () => {
  const sides: Point[] = [[-1, -1], [0, -1], [1, -1], [1, 0], [1, 1], [0, 1], [-1, 1], [-1, 0]];

  it("keeps the ratio, whole pixels and the opposite side", () => {
    for (const side of sides) {
      const [x, y, width, height] = resizeFrame(SMALL, side, side[0] * 150, side[1] * 100, 1.5, TURNED);
      expect(Number.isInteger(width) && Number.isInteger(height)).toBe(true);
      expect(Math.abs(width - height * 1.5)).toBeLessThanOrEqual(1.5);
      expect(width).toBeGreaterThan(700);
      const anchor = [x + (width * (1 - side[0])) / 2, y + (height * (1 - side[1])) / 2];
      expect(anchor[0]).toBeCloseTo(1200 + (600 * (1 - side[0])) / 2, 6);
      expect(anchor[1]).toBeCloseTo(800 + (400 * (1 - side[1])) / 2, 6);
    }
  });

  it("stops at the picture's edge", () => {
    for (const side of sides) {
      const rect = resizeFrame(SMALL, side, side[0] * 9000, side[1] * 9000, 1.5, TURNED);
      expect(reach(rect)).toBeLessThanOrEqual(1e-6);
      expect(reach(rect)).toBeGreaterThan(-2);
    }
  });

  it("does not vanish or turn over", () => {
    const [, , width, height] = resizeFrame(SMALL, [1, 1], -9000, -9000, 1.5, TURNED);
    expect([width, height]).toEqual([24, 16]);
  });
});

/** A 3000 x 2000 picture whose sides bow inwards by 80, as a corrected barrel does: a fine polygon, not convex. */
const BOWED: Point[] = (() => {
  const steps = 32;
  const side = (from: Point, to: Point, inwards: Point): Point[] =>
    Array.from({ length: steps }, (_, step) => {
      const share = step / steps;
      const bow = 80 * 4 * share * (1 - share);
      return [from[0] + (to[0] - from[0]) * share + inwards[0] * bow, from[1] + (to[1] - from[1]) * share + inwards[1] * bow];
    });
  return [
    ...side([0, 0], [3000, 0], [0, 1]),
    ...side([3000, 0], [3000, 2000], [-1, 0]),
    ...side([3000, 2000], [0, 2000], [0, -1]),
    ...side([0, 2000], [0, 0], [1, 0]),
  ];
})();

const BOW: Room = { outline: BOWED, allowEmpty: false };

describe("a frame in a bowed outline", () => {
  it("sees a side that bows into it although every corner is inside", () => {
    expect(fits([90, 90, 2820, 1820], BOWED)).toBe(true);
    const tooHigh: Rect = [600, 70, 1800, 1000];
    expect(fits(tooHigh, BOWED)).toBe(false);
    expect(fits([100, 40, 60, 60], BOWED)).toBe(true);
    expect(fits([-500, -500, 100, 100], BOWED)).toBe(false);
  });

  it("slides along the bow and keeps its size", () => {
    const moved = moveFrame(SMALL, 200, -5000, BOW);
    expect(fits(moved, BOWED)).toBe(true);
    expect(fits([moved[0], moved[1] - 1, 600, 400], BOWED)).toBe(false);
    expect(Math.abs(moved[0] - 1400)).toBeLessThan(12);
    expect(moved.slice(2)).toEqual([600, 400]);
  });

  it("grows up to the bow with its ratio and its far corner held", () => {
    const [x, y, width, height] = resizeFrame(SMALL, [1, 1], 9000, 9000, 1.5, BOW);
    expect([x, y]).toEqual([1200, 800]);
    expect(fits([x, y, width, height], BOWED)).toBe(true);
    expect(fits([x, y, width + 2, height + 2], BOWED)).toBe(false);
    expect(Math.abs(width - height * 1.5)).toBeLessThanOrEqual(1.5);
  });
});

describe("a thousand drags at random", () => {
  it("of the whole in a turned photo end within a pixel of the nearest place", () => {
    const random = dice();
    const planes = halfPlanes(OUTLINE).map(({ nx, ny, offset }) => ({ nx, ny, offset: offset - (Math.abs(nx) * 600 + Math.abs(ny) * 400) / 2 }));
    for (let drag = 0; drag < 1000; drag++) {
      const [dx, dy] = [(random() - 0.5) * 5000, (random() - 0.5) * 4000];
      const moved = moveFrame(SMALL, dx, dy, TURNED);
      const wanted: Point = [1500 + dx, 1000 + dy];
      const exact = nearestInside(wanted, planes);
      expect(Math.hypot(moved[0] + 300 - exact[0], moved[1] + 200 - exact[1])).toBeLessThan(1);
      expect(reach(moved)).toBeLessThanOrEqual(1e-6);
    }
  });

  it("of the whole in a bowed outline end within a pixel of the nearest place", () => {
    const random = dice();
    for (let drag = 0; drag < 1000; drag++) {
      const [dx, dy] = [(random() - 0.5) * 5000, (random() - 0.5) * 4000];
      const moved = moveFrame(SMALL, dx, dy, BOW);
      expect(fits(moved, BOWED)).toBe(true);
      const [x, y] = [SMALL[0] + dx, SMALL[1] + dy];
      const missed = Math.hypot(moved[0] - x, moved[1] - y);
      // Nothing on a fine ring one pixel nearer to where the hand is can be had.
      const ring = Array.from({ length: missed > 1 ? 180 : 0 }, (_, way): Rect => {
        const angle = (way * Math.PI) / 90;
        return [x + (missed - 1) * Math.cos(angle), y + (missed - 1) * Math.sin(angle), 600, 400];
      });
      expect(ring.filter((there) => fits(there, BOWED))).toEqual([]);
    }
  });

  it("of a free corner slide along the outline, straight or bowed", () => {
    const random = dice();
    for (let drag = 0; drag < 1000; drag++) {
      const room = drag % 2 ? TURNED : BOW;
      const side: Point = [random() < 0.5 ? -1 : 1, random() < 0.5 ? -1 : 1];
      const [dx, dy] = [(random() - 0.5) * 4000, (random() - 0.5) * 3000];
      const [x, y, width, height] = resizeFrame(SMALL, side, dx, dy, null, room);
      expect(lies([x, y, width, height], room)).toBe(true);
      const wanted: Point = [Math.max(16, 600 + side[0] * dx), Math.max(16, 400 + side[1] * dy)];
      const missed = Math.hypot(width - wanted[0], height - wanted[1]);
      const about = (w: number, h: number): Rect => [1200 + (600 * (1 - side[0])) / 2 - (w * (1 - side[0])) / 2, 800 + (400 * (1 - side[1])) / 2 - (h * (1 - side[1])) / 2, w, h];
      // Whole pixels cost up to one each way.
      const ring = Array.from({ length: missed > 2.5 ? 360 : 0 }, (_, way): Point => {
        const angle = (way * Math.PI) / 180;
        return [wanted[0] + (missed - 2.5) * Math.cos(angle), wanted[1] + (missed - 2.5) * Math.sin(angle)];
      });
      expect(ring.filter(([w, h]) => w >= 1 && h >= 1 && lies(about(w, h), room))).toEqual([]);
    }
  });

  it("of a corner or side with its ratio held end at the largest that there is room for", () => {
    const random = dice();
    for (let drag = 0; drag < 1000; drag++) {
      const room = drag % 2 ? TURNED : BOW;
      const sides: Point[] = [[-1, -1], [0, -1], [1, -1], [1, 0], [1, 1], [0, 1], [-1, 1], [-1, 0]];
      const side = sides[Math.floor(random() * 8)]!;
      const [dx, dy] = [(random() - 0.3) * side[0] * 4000, (random() - 0.3) * side[1] * 3000];
      const rect = resizeFrame(SMALL, side, dx, dy, 1.5, room);
      expect(lies(rect, room)).toBe(true);
      const [, , width, height] = rect;
      expect(Math.abs(width - height * 1.5)).toBeLessThanOrEqual(1.5);
      const [across, down] = [600 + side[0] * dx, 1.5 * (400 + side[1] * dy)];
      const wanted = side[0] === 0 ? down : side[1] === 0 ? across : (across + down) / 2;
      const about = (w: number): Rect => [1200 + ((600 - w) * (1 - side[0])) / 2, 800 + ((400 - w / 1.5) * (1 - side[1])) / 2, w, w / 1.5];
      if (width < Math.floor(wanted)) expect(lies(about(width + 1), room)).toBe(false);
      else expect(width).toBe(Math.max(24, Math.floor(wanted)));
    }
  });
});

describe("a frame that may have empty corners", () => {
  const anywhere: Room = { outline: OUTLINE, allowEmpty: true };

  it("grows over the edge of the picture", () => {
    const rect = resizeFrame(SMALL, [1, 1], 1500, 1000, 1.5, anywhere);
    expect(rect).toEqual([1200, 800, 2100, 1400]);
    expect(fits(rect, OUTLINE)).toBe(false);
  });

  it("keeps its middle on the picture", () => {
    const [x, y] = moveFrame(SMALL, 9000, 0, anywhere);
    expect(x + 300).toBeGreaterThan(2900);
    expect(lies([x, y, 600, 400], anywhere)).toBe(true);
  });
});
