import { describe, expect, it } from "vitest";

import { caught, sharesShown } from "./placeTool";

describe("a line of the frame that the subject is dragged to", () => {
  it("is the nearest of those that are shown, and none beyond its reach", () => {
    const thirds = sharesShown(["thirds", "spiral"]);
    expect(caught(205, 100, 300, thirds, 10)).toBeCloseTo(1 / 3);
    expect(caught(295, 100, 300, thirds, 10)).toBeCloseTo(2 / 3);
    expect(caught(250, 100, 300, thirds, 10)).toBeNull();
    expect(caught(250, 100, 300, sharesShown(["thirds", "centre"]), 10)).toBe(0.5);
  });

  it("is a third where no such lines are shown", () => {
    expect(sharesShown(["diagonals"])).toEqual([1 / 3, 2 / 3]);
  });
});
