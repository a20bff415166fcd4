import { describe, expect, it } from "vitest";

import type { Recipe } from "../api/client";
import { handFor, kindFor, movedLine, newReference, replaced, withHand, withReferences, withRollOn } from "./recipeEdits";

const RECIPE = {
  format: "sequor-recipe",
  version: 1,
  photo: { width: 300, height: 200 },
  references: [],
  correction: {
    free: ["roll"],
    roll: 2.3,
    pitch: 0,
    yaw: 0,
    by_hand: { roll: 0.5, pitch: 0, yaw: 0 },
    on: { roll: true, pitch: true, yaw: true },
  },
} as unknown as Recipe;

describe("edits of the recipe", () => {
  it("takes a kind by its slope only while none was chosen", () => {
    expect(kindFor("slope", [0, 0], [100, 40])).toBe("level");
    expect(kindFor("slope", [0, 0], [40, -100])).toBe("plumb");
    expect(kindFor("plumb", [0, 0], [100, 40])).toBe("plumb");
  });

  it("asks for a new solution when a line changes, and never reuses an id", () => {
    const first = newReference(RECIPE, "level", [1.2345, 2], [90, 3], 0.7);
    expect(first).toMatchObject({ id: "r1", points: [[1.23, 2], [90, 3]], sigma_px: 0.7, active: true });
    const one = withReferences(RECIPE, [{ ...first, id: "r2" }]);
    expect(one.correction).toMatchObject({ roll: null, pitch: null, yaw: null });
    expect(newReference(one, "plumb", [0, 0], [1, 1], 1).id).toBe("r3");
    expect(RECIPE.correction.roll).toBe(2.3);
  });

  it("moves an end or the whole", () => {
    const line = newReference(RECIPE, "level", [10, 10], [90, 20], 1);
    expect(movedLine(line, 1, 5, -5, 0.5)).toMatchObject({ points: [[10, 10], [95, 15]], sigma_px: 0.5 });
    expect(movedLine(line, "all", -1, 1, 1).points).toEqual([[9, 11], [89, 21]]);
    const recipe = withReferences(RECIPE, [line]);
    expect(replaced(recipe, { ...line, kind: "witness" }).references[0]?.kind).toBe("witness");
  });

  it("changes only the hand's part, within its range", () => {
    expect(handFor(RECIPE, 0.25)).toBe(0.75);
    expect(handFor(RECIPE, 90)).toBe(45);
    expect(withHand(RECIPE, -3).correction).toMatchObject({ roll: 2.3, by_hand: { roll: -3 } });
  });

  it("switches the correction off together with the hand's part", () => {
    const off = withRollOn(RECIPE, false).correction;
    expect([off.on.roll, off.by_hand.roll]).toEqual([false, 0]);
    expect(withRollOn(RECIPE, true).correction.by_hand.roll).toBe(0.5);
  });
});
