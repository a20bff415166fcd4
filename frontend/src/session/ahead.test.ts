import { describe, expect, it } from "vitest";

import type { Action, Recipe } from "../api/client";
import { ahead, freeId, within } from "./ahead";
import type { Seen } from "./model";

const each = <T,>(value: T) => ({ roll: value, pitch: value, yaw: value });
const RECIPE = {
  photo: { width: 300, height: 200 },
  references: [{ id: "r1", kind: "level", points: [[1, 1], [9, 2]], active: true }],
  correction: { by_hand: { ...each(0), roll: 0.5 }, proportion: 1 },
  lens: { source: "none", k1: 0 },
  frame: { rect: null, subject: null, allow_empty: false },
  edges: { touch_ups: [{ id: "t1", points: [[10, 10], [40, 10]] }], donors: [] },
} as unknown as Recipe;
const SEEN = { angles: [{ name: "roll", taken_out: 2.5, by_hand: 0.5 }] } as unknown as Seen;
const after = (action: Action) => ahead(RECIPE, action, SEEN);

describe("what an action looks like before the server has answered", () => {
  it("is where things lie", () => {
    expect(after({ do: "move", line: "r1", points: [[3, 3], [9, 2]] }).references[0]?.points).toEqual([[3, 3], [9, 2]]);
    expect(after({ do: "frame", rect: [1, 2, 30, 20] }).frame.rect).toEqual([1, 2, 30, 20]);
    expect(after({ do: "draw out", rect: [1, 2, 30, 20] }).frame.allow_empty).toBe(true);
    expect(after({ do: "move area", area: "t1", to: [15, 9] }).edges.touch_ups[0]?.points).toEqual([[15, 9], [45, 9]]);
    expect(after({ do: "subject", mark: [[310, 20], [10, 90]] }).frame.subject).toEqual([10, 20, 290, 70]);
  });

  it("is a new line in its colour", () => {
    const lay = (x: number, y: number) => after({ do: "lay", line: "r2", kind: "slope", points: [[0, 0], [x, y]] }).references[1];
    expect([lay(90, 4)?.kind, lay(4, -90)?.kind]).toEqual(["level", "plumb"]);
    expect(lay(90, 4)).toMatchObject({ id: "r2", active: true, weight: 1 });
  });

  it("is the number that the hand leads to, whatever the lines say, within its range", () => {
    expect(after({ do: "take out", angle: "roll", degrees: 3 }).correction.by_hand.roll).toBe(1);
    expect(after({ do: "take out", angle: "roll", degrees: 300 }).correction.by_hand.roll).toBe(45);
    expect(after({ do: "proportion", percent: 4 }).correction.proportion).toBe(1.04);
    expect(after({ do: "bend", percent: 8 }).lens).toMatchObject({ source: "manual", k1: -0.08 });
  });

  it("is nothing where a rule has to say it", () => {
    expect(after({ do: "clear lines" })).toBe(RECIPE);
    expect(after({ do: "kind", line: "r1", kind: "rectangle" })).toBe(RECIPE);
  });
});

it("names things anew by the first number that is free", () => {
  expect(freeId([], "t")).toBe("t1");
  expect(freeId([{ id: "r2" }], "r")).toBe("r3");
  expect(within("weight.weight", 99)).toBe(10);
});
