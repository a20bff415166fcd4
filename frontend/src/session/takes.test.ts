import { describe, expect, it } from "vitest";

import type { Recipe, Take, Takes } from "../api/client";
import { unfinished } from "../api/queries";
import { fills, laidParts, listedParts, seedFor, sharpestAt, wantedSeeds } from "./takes";

const HERE = "a".repeat(64);
const PARTS = ["top left corner", "bottom right corner"];

function take(seed: number, state: Take["state"], rough = 0): Take {
  const parts = PARTS.map((part, at): Take["parts"][number] => ({
    part,
    box: [10 * at, 20 * at, 30, 40],
    sha256: state === "done" ? `${seed}${at}`.padEnd(64, "0") : null,
  }));
  return { id: 100 + seed, seed, state, progress: 0, words: "", parts, rough };
}

const takes = (...all: Take[]): Takes => ({ made_for: HERE, takes: all, notice: null });

const RECIPE = {
  edges: { mode: "fill", seed: 1, colour: null, patches: [] },
  frame: { rect: [0, 0, 90, 60], allow_empty: true },
} as unknown as Recipe;

const withPatches = (seed: number, ...chosen: [part: string, seed: number][]): Recipe => {
  const patches = chosen.map(([part, of]) => ({ part, seed: of, made_for: HERE, sha256: `${of}${PARTS.indexOf(part)}`.padEnd(64, "0"), box: [10 * PARTS.indexOf(part), 20 * PARTS.indexOf(part), 30, 40] }));
  return { ...RECIPE, edges: { ...RECIPE.edges, seed, patches } } as unknown as Recipe;
};

describe("takes in a recipe", () => {
  it("are chosen for all corners or for one", () => {
    const mixed = withPatches(2, ["top left corner", 2], ["bottom right corner", 3]);
    expect(PARTS.map((part) => seedFor(mixed, part))).toEqual([2, 3]);
    expect(wantedSeeds(mixed)).toEqual([2, 3]);
    expect(seedFor(RECIPE, "top left corner")).toBe(1);
  });
});

describe("what is laid into the empty corners", () => {
  it("is the take by its seed, as sharp as the zoom asks", () => {
    const laid = laidParts(RECIPE, takes(take(1, "done"), take(2, "done")), 7, 4, null)!;
    expect(laid.map(({ source, reduced }) => [source, reduced])).toEqual([
      [`/api/patches/${"10".padEnd(64, "0")}/4.png`, 4],
      [`/api/patches/${"11".padEnd(64, "0")}/4.png`, 4],
    ]);
  });

  it("follows the pointer, for one corner or for all", () => {
    const found = takes(take(1, "done"), take(2, "done"));
    const one = laidParts(RECIPE, found, 7, 1, { seed: 2, part: "bottom right corner" })!;
    expect(one.map(({ source }) => source.slice(13, 15))).toEqual(["10", "21"]);
    const all = laidParts(RECIPE, found, 7, 1, { seed: 2, part: null })!;
    expect(all.map(({ source }) => source.slice(13, 15))).toEqual(["20", "21"]);
  });

  it("is a first look while the take is made, and nothing before that", () => {
    expect(laidParts(RECIPE, takes(take(1, "running")), 7, 2, null)).toBeNull();
    const look = laidParts(RECIPE, takes(take(1, "running", 4)), 7, 2, null)!;
    expect(look[1]).toMatchObject({ source: "/api/photos/7/takes/101/first-look-1.png", reduced: 4 });
    expect(laidParts(RECIPE, takes(), 7, 2, null)).toBeNull();
  });

  it("is not shown of a recipe whose patches are stale", () => {
    const chosen = withPatches(2, ...PARTS.map((part): [string, number] => [part, 2]));
    expect(listedParts(chosen, HERE, 2)).toHaveLength(2);
    expect(listedParts(chosen, "b".repeat(64), 2)).toBeNull();
    expect(listedParts(RECIPE, HERE, 2)).toBeNull();
  });

  it("is reduced no more than still looks sharp", () => {
    expect([2, 1, 0.6, 0.5, 0.26, 0.1, 0.001].map(sharpestAt)).toEqual([1, 1, 1, 2, 2, 8, 64]);
  });
});

it("fills only where something is empty", () => {
  expect([fills(RECIPE, 0.02), fills(RECIPE, 0.0001), fills(null, 0.02)]).toEqual([true, false, false]);
  expect((["waiting", "running", "done", "failed", "cancelled"] as const).map((state) => unfinished(take(1, state)))).toEqual([true, true, false, false, false]);
});
