import { describe, expect, it } from "vitest";

import { turned } from "./ratios";

describe("a ratio lying and upright", () => {
  it("is the same ratio the other way round", () => {
    expect([turned("3:2"), turned("sqrt2:1"), turned("original")]).toEqual(["2:3", "1:sqrt2", "original"]);
  });
});
