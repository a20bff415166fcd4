import { describe, expect, it } from "vitest";

import type { Recipe, Take } from "../api/client";
import { cornerPatches, hasArea, patchOf, pathOf, thinned, withDrawn, withMoved, withoutDonor, withoutTouchUp, withTouchUp, withWidened } from "./areas";
import type { Point } from "./mesh";
import { laidOver, unlisted, withTouchTake } from "./touchUps";

const HERE = "a".repeat(64);
const SHA = "c".repeat(64);

const RECIPE = {
  photo: { width: 3000, height: 2000 },
  frame: { ratio: "original", rect: null, allow_empty: false },
  edges: { mode: "trim", seed: 1, strips: 1, hint: null, colour: null, segments: null, donors: [], touch_ups: [], patches: [] },
} as unknown as Recipe;

const corner = { sha256: SHA, part: "top left corner", box: [0, 0, 9, 9], seed: 1, made_for: HERE } as Recipe["edges"]["patches"][number];
const brushed = withDrawn(RECIPE, "touch-up", { points: [[10, 10], [40, 10]], radius: 8 }, 4);
const take = { id: 1, seed: 3, state: "done", progress: 1, words: "done", rough: 0, parts: [{ part: "touch-up t1", box: [0, 0, 60, 30], sha256: SHA }] } as Take;

describe("drawn areas", () => {
  it("become touch-ups or donors with names of their own", () => {
    const two = withDrawn(brushed, "touch-up", { points: [[0, 0], [9, 0], [9, 9]], radius: null }, 2);
    expect(two.edges.touch_ups.map(({ id, radius, feather, amount, active }) => [id, radius, feather, amount, active])).toEqual([
      ["t1", 8, 4, 1, true],
      ["t2", null, 2, 1, true],
    ]);
    const marked = withDrawn(two, "not from here", { points: [[5, 5]], radius: 3 }, 2);
    expect(marked.edges.donors).toEqual([{ id: "d1", kind: "not from here", points: [[5, 5]], radius: 3 }]);
    expect(withoutDonor(marked, "d1").edges.donors).toEqual([]);
    const again = withDrawn(withoutTouchUp(two, "t1"), "touch-up", { points: [[1, 1]], radius: 2 }, 0);
    expect(again.edges.touch_ups.map(({ id }) => id)).toEqual(["t2", "t1"]);
  });

  it("are kept with no more points than a brush needs, their ends as they were", () => {
    const line = Array.from({ length: 2000 }, (_, at): Point => [at / 4, 0]);
    const few = thinned(line, 20);
    expect(few[0]).toEqual([0, 0]);
    expect(few[few.length - 1]).toEqual([499.8, 0]);
    expect(few.length).toBeLessThan(60);
    expect(thinned(Array.from({ length: 9000 }, (_, at): Point => [at, 0]), 1).length).toBeLessThanOrEqual(400);
  });

  it("have an area when they enclose or cover something", () => {
    expect(hasArea({ points: [[1, 1]], radius: 2 })).toBe(true);
    expect(hasArea({ points: [[1, 1], [2, 2], [1, 1]], radius: null })).toBe(false);
    expect(hasArea({ points: [[1, 1], [2, 2], [1, 2]], radius: null })).toBe(true);
  });

  it("are changed and moved one by one", () => {
    expect(withTouchUp(brushed, "t1", { amount: 0.5 }).edges.touch_ups[0]).toMatchObject({ amount: 0.5, radius: 8 });
    expect(withMoved(brushed, "t1", 5, -1).edges.touch_ups[0]!.points).toEqual([[15, 9], [45, 9]]);
    expect(withMoved(brushed, "t9", 5, -1)).toEqual(brushed);
  });

  it("are drawn as paths, a dab as well", () => {
    expect(pathOf([[1, 2], [3, 4]], true)).toBe("M1 2L3 4Z");
    expect(pathOf([[1, 2]], false)).toBe("M1 2h0.01");
    expect(pathOf([], true)).toBe("");
  });
});

describe("a frame that is drawn out", () => {
  it("is filled, or left as corners are", () => {
    expect(withWidened(RECIPE, [0, 0, 4000, 2000])).toMatchObject({ frame: { allow_empty: true, rect: [0, 0, 4000, 2000] }, edges: { mode: "fill" } });
    const left = { ...RECIPE, edges: { ...RECIPE.edges, mode: "leave" } } as Recipe;
    expect(withWidened(left, [0, 0, 4000, 2000]).edges.mode).toBe("leave");
  });
});

describe("takes of touch-ups", () => {
  it("are wanted until a patch of the right seed is listed and holds", () => {
    const open = (recipe: Recipe, madeFor: Record<string, string>) => unlisted(recipe, madeFor).map(({ id, seed }) => [id, seed]);
    expect(open(RECIPE, {})).toEqual([]);
    expect(open(brushed, { t1: HERE })).toEqual([["t1", 1]]);
    const made = withTouchTake(brushed, "t1", take, HERE);
    expect(made.edges.touch_ups[0]!.seed).toBe(3);
    expect(open(made, { t1: HERE })).toEqual([]);
    expect(open(made, { t1: "b".repeat(64) })).toEqual([["t1", 3]]);
    expect(open(withTouchUp(brushed, "t1", { active: false }), {})).toEqual([]);
  });

  it("leave the patches of the corners alone", () => {
    const both = withTouchTake({ ...brushed, edges: { ...brushed.edges, patches: [corner] } }, "t1", take, HERE);
    expect(cornerPatches(both)).toEqual([corner]);
    expect(patchOf(both, "t1", HERE)).toMatchObject({ seed: 3, sha256: SHA });
    expect(patchOf(both, "t1", undefined)).toBeUndefined();
  });

  it("are laid over the picture with their amount, a pointed one in place of its own", () => {
    const made = withTouchTake(withTouchUp(brushed, "t1", { amount: 0.5 }), "t1", take, HERE);
    expect(laidOver(made, { t1: HERE }, {}, 2, null)).toEqual([
      { id: "t1", box: [0, 0, 60, 30], source: `/api/patches/${SHA}/2.png?over`, reduced: 2, amount: 0.5 },
    ]);
    const other = { ...take, parts: [{ ...take.parts[0]!, sha256: "d".repeat(64) }] };
    expect(laidOver(made, { t1: HERE }, {}, 1, { id: "t1", take: other })[0]!.source).toContain("dddd");
    expect(laidOver(made, { t1: "b".repeat(64) }, {}, 2, null)).toEqual([]);
    // What is done is seen, listed or not, for what it was made for.
    const known = { t1: { made_for: HERE, takes: [{ ...take, seed: 1 }], notice: null } };
    expect(laidOver(brushed, { t1: HERE }, known, 2, null)).toHaveLength(1);
    expect(laidOver(brushed, { t1: "b".repeat(64) }, known, 2, null)).toEqual([]);
  });
});
