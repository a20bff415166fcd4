import { describe, expect, it } from "vitest";

import type { Recipe, Take } from "../api/client";
import { cornerPatches, hasArea, patchOf, pathOf } from "./areas";
import { laidOver, unlisted } from "./touchUps";

const HERE = "a".repeat(64);
const SHA = "c".repeat(64);

const RECIPE = {
  photo: { width: 3000, height: 2000 },
  frame: { ratio: "original", rect: null, allow_empty: false },
  edges: { mode: "trim", seed: 1, strips: 1, hint: null, colour: null, segments: null, donors: [], touch_ups: [], patches: [] },
} as unknown as Recipe;

const corner = { sha256: SHA, part: "top left corner", box: [0, 0, 9, 9], seed: 1, made_for: HERE } as Recipe["edges"]["patches"][number];
type TouchUp = Recipe["edges"]["touch_ups"][number];
const touchUp: TouchUp = { id: "t1", points: [[10, 10], [40, 10]], radius: 8, feather: 4, amount: 1, active: true, seed: 1, hint: null };
const withOne = (changes: Partial<TouchUp>, patches: Recipe["edges"]["patches"] = []): Recipe => ({
  ...RECIPE,
  edges: { ...RECIPE.edges, touch_ups: [{ ...touchUp, ...changes }], patches },
});
const brushed = withOne({});
const patch = { sha256: SHA, part: "touch-up t1", box: [0, 0, 60, 30], seed: 3, made_for: HERE } as Recipe["edges"]["patches"][number];
const take = { id: 1, seed: 3, state: "done", progress: 1, words: "done", rough: 0, parts: [{ part: "touch-up t1", box: [0, 0, 60, 30], sha256: SHA }] } as Take;

describe("drawn areas", () => {
  it("have an area when they enclose or cover something", () => {
    expect(hasArea({ points: [[1, 1]], radius: 2 })).toBe(true);
    expect(hasArea({ points: [[1, 1], [2, 2], [1, 1]], radius: null })).toBe(false);
    expect(hasArea({ points: [[1, 1], [2, 2], [1, 2]], radius: null })).toBe(true);
  });

  it("are drawn as paths, a dab as well", () => {
    expect(pathOf([[1, 2], [3, 4]], true)).toBe("M1 2L3 4Z");
    expect(pathOf([[1, 2]], false)).toBe("M1 2h0.01");
    expect(pathOf([], true)).toBe("");
  });
});

describe("takes of touch-ups", () => {
  it("are wanted until a patch of the right seed is listed and holds", () => {
    const open = (recipe: Recipe, madeFor: Record<string, string>) => unlisted(recipe, madeFor).map(({ id, seed }) => [id, seed]);
    expect(open(RECIPE, {})).toEqual([]);
    expect(open(brushed, { t1: HERE })).toEqual([["t1", 1]]);
    const made = withOne({ seed: 3 }, [patch]);
    expect(open(made, { t1: HERE })).toEqual([]);
    expect(open(made, { t1: "b".repeat(64) })).toEqual([["t1", 3]]);
    expect(open(withOne({ active: false }), {})).toEqual([]);
  });

  it("are told from the patches of the corners", () => {
    const both = withOne({ seed: 3 }, [corner, patch]);
    expect(cornerPatches(both)).toEqual([corner]);
    expect(patchOf(both, "t1", HERE)).toMatchObject({ seed: 3, sha256: SHA });
    expect(patchOf(both, "t1", undefined)).toBeUndefined();
  });

  it("are laid over the picture with their amount, a pointed one in place of its own", () => {
    const made = withOne({ seed: 3, amount: 0.5 }, [patch]);
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
