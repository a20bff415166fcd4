import { describe, expect, it } from "vitest";

import { hit, placeNext } from "../tools/lineHand";
import { arrowStep } from "../tools/hands";
import type { Point } from "../../session/mesh";
import { turnGrid, usePreferences } from "../../session/preferences";
import { fitView, fromStage, LARGEST_SCALE, panned, toStage, zoomedAt } from "./view";
import type { Reference } from "../../api/client";

const STAGE = { width: 900, height: 600 };

describe("the view", () => {
  const view = fitView([[0, 0], [3000, 2000]], STAGE, 80);

  it("fits the picture below the controls", () => {
    const [left, top] = toStage(view, STAGE, [0, 0]);
    const [right, bottom] = toStage(view, STAGE, [3000, 2000]);
    expect(left).toBeGreaterThanOrEqual(19.9);
    expect(right).toBeLessThanOrEqual(880.1);
    expect(top).toBeGreaterThanOrEqual(79.9);
    expect(bottom).toBeLessThanOrEqual(580.1);
  });

  it("goes forth and back", () => {
    const [x, y] = fromStage(view, STAGE, toStage(view, STAGE, [123, 456]));
    expect(x).toBeCloseTo(123);
    expect(y).toBeCloseTo(456);
  });

  it("zooms about the point under the hand", () => {
    const at: Point = [700, 200];
    const before = fromStage(view, STAGE, at);
    const closer = zoomedAt(view, STAGE, at, 2.5, 0.01);
    expect(closer.scale).toBeCloseTo(view.scale * 2.5);
    const after = fromStage(closer, STAGE, at);
    expect(after[0]).toBeCloseTo(before[0]);
    expect(after[1]).toBeCloseTo(before[1]);
    expect(zoomedAt(view, STAGE, at, 1e6, 0.01).scale).toBe(LARGEST_SCALE);
    expect(zoomedAt(view, STAGE, at, 1e-6, 0.01).scale).toBe(0.01);
  });

  it("pans with the hand", () => {
    const [x, y] = toStage(panned(view, 40, -25), STAGE, fromStage(view, STAGE, [100, 100]));
    expect([x, y].map((value) => Math.round(value))).toEqual([140, 75]);
  });
});

describe("what lies under the hand", () => {
  const line = { id: "r1", kind: "level" } as Reference;
  const lines = [{ line, points: [[100, 100], [500, 140]] as Point[] }];
  const part = (at: Point) => hit(lines, at)?.hold.part ?? null;

  it("is an end before the number before the line", () => {
    expect(part([112, 106])).toBe(0);
    expect(part([495, 150])).toBe(1);
    expect(hit(lines, [300, 122])).toMatchObject({ body: false, hold: { part: "all" } });
    expect(hit(lines, [200, 114])).toMatchObject({ body: true, hold: { part: "all" } });
    expect(part([200, 160])).toBeNull();
  });

  it("is a corner of a rectangle, its number in the middle, or a side", () => {
    const box = { id: "r2", kind: "rectangle" } as Reference;
    const corners: Point[] = [[100, 100], [300, 100], [300, 200], [100, 200]];
    const under = (at: Point) => hit([{ line: box, points: corners }], at);
    expect(under([298, 203])?.hold.part).toBe(2);
    expect(under([201, 149])).toMatchObject({ body: false, hold: { part: "all" } });
    expect(under([101, 150])).toMatchObject({ body: true, hold: { part: "all" } });
    expect(under([150, 150])).toBeNull();
  });

  it("lays point after point until the kind has enough", () => {
    expect(placeNext("level", [[0, 0]], [9, 9], false)).toEqual({ points: [[0, 0], [9, 9]], whole: true });
    expect(placeNext("rectangle", [[0, 0], [9, 0]], [9, 9], false).whole).toBe(false);
    const three: Point[] = [[0, 0], [5, 1], [9, 0]];
    expect(placeNext("straight", three.slice(0, 2), [9, 0], false)).toEqual({ points: three, whole: false });
    expect(placeNext("straight", three, [9, 0], true)).toEqual({ points: three, whole: true });
  });
});

describe("keys and guides", () => {
  const press = (key: string, more = {}) => arrowStep({ key, altKey: false, shiftKey: false, ctrlKey: false, ...more });

  it("moves by 0.1, 1, 10 or 100 pixels", () => {
    expect(press("ArrowLeft")).toEqual([-1, 0]);
    expect(press("ArrowUp", { altKey: true })).toEqual([0, -0.1]);
    expect(press("ArrowRight", { shiftKey: true })).toEqual([10, 0]);
    expect(press("ArrowDown", { ctrlKey: true })).toEqual([0, 100]);
    expect(press("a")).toBeNull();
  });

  it("goes from grid to grid and back to none", () => {
    const seen = [1, 2, 3, 4].map(() => {
      turnGrid("lines");
      return usePreferences.getState().grids.lines;
    });
    expect(seen).toEqual(["coarse", "fine", "square", "none"]);
  });
});
