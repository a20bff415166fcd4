import { describe, expect, it } from "vitest";

import { fits, halfPlanes, moveFrame, type Rect, resizeFrame } from "./frameGeometry";
import type { Point } from "./mesh";

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

const SMALL: Rect = [1200, 800, 600, 400];

describe("moving the frame", () => {
  it("goes where it is led inside the picture", () => {
    expect(moveFrame(SMALL, 30.5, -12, OUTLINE)).toEqual([1230.5, 788, 600, 400]);
  });

  it("never leaves the picture and keeps its size", () => {
    for (let way = 0; way < 24; way++) {
      const angle = (way * Math.PI) / 12;
      const moved = moveFrame(SMALL, 5000 * Math.cos(angle), 5000 * Math.sin(angle), OUTLINE);
      expect(reach(moved)).toBeLessThanOrEqual(1e-6);
      expect(moved.slice(2)).toEqual([600, 400]);
    }
  });

  it("slides along an edge", () => {
    const there = moveFrame(SMALL, 0, -5000, OUTLINE);
    const along = moveFrame(there, 200, -200, OUTLINE);
    expect(along[0]).toBeGreaterThan(there[0] + 100);
    expect(reach(along)).toBeLessThanOrEqual(1e-6);
  });

  it("does not care which way round the outline runs", () => {
    const back = [...OUTLINE].reverse();
    expect(moveFrame(SMALL, 900, 900, back)[0]).toBeCloseTo(moveFrame(SMALL, 900, 900, OUTLINE)[0], 6);
  });
});

describe("resizing the frame", () => {
  const sides: Point[] = [[-1, -1], [0, -1], [1, -1], [1, 0], [1, 1], [0, 1], [-1, 1], [-1, 0]];

  it("keeps the ratio, whole pixels and the opposite side", () => {
    for (const side of sides) {
      const [x, y, width, height] = resizeFrame(SMALL, side, side[0] * 150, side[1] * 100, 1.5, OUTLINE);
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
      const rect = resizeFrame(SMALL, side, side[0] * 9000, side[1] * 9000, 1.5, OUTLINE);
      expect(reach(rect)).toBeLessThanOrEqual(1e-6);
      expect(reach(rect)).toBeGreaterThan(-2);
    }
  });

  it("does not vanish or turn over", () => {
    const [, , width, height] = resizeFrame(SMALL, [1, 1], -9000, -9000, 1.5, OUTLINE);
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

describe("a frame in a bowed outline", () => {
  it("sees a side that bows into it although every corner is inside", () => {
    expect(fits([90, 90, 2820, 1820], BOWED)).toBe(true);
    const tooHigh: Rect = [600, 70, 1800, 1000];
    expect(fits(tooHigh, BOWED)).toBe(false);
    expect(fits([100, 40, 60, 60], BOWED)).toBe(true);
    expect(fits([-500, -500, 100, 100], BOWED)).toBe(false);
  });

  it("slides along the bow and keeps its size", () => {
    const moved = moveFrame(SMALL, 200, -5000, BOWED);
    expect(fits(moved, BOWED)).toBe(true);
    expect(fits([moved[0], moved[1] - 1, 600, 400], BOWED)).toBe(false);
    expect(moved[0]).toBeCloseTo(1400, 0);
    expect(moved.slice(2)).toEqual([600, 400]);
  });

  it("grows up to the bow with its ratio and its far corner held", () => {
    const [x, y, width, height] = resizeFrame(SMALL, [1, 1], 9000, 9000, 1.5, BOWED);
    expect([x, y]).toEqual([1200, 800]);
    expect(fits([x, y, width, height], BOWED)).toBe(true);
    expect(fits([x, y, width + 2, height + 2], BOWED)).toBe(false);
    expect(Math.abs(width - height * 1.5)).toBeLessThanOrEqual(1.5);
  });
});
