import { cleanup, render } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";

import type { Recipe, Reference, Shapes } from "../../api/client";
import { composeLines, diagonals } from "./ComposeLines";
import { FAMILIES } from "../../session/model";
import type { Rect } from "../tools/frameGeometry";
import { plainMesh } from "../../session/mesh";
import { middleBetween, wallsOf } from "../../session/walls";
import type { Family } from "../../session/model";

afterEach(cleanup);

const plumb = (id: string, x: number) => ({ id, kind: "plumb", points: [[x, 10], [x + 4, 90]] }) as unknown as Reference;
const recipe = { references: [{ id: "l", kind: "level", points: [[0, 0], [9, 9]] }, plumb("a", 20), plumb("b", 60), plumb("c", 90)] } as unknown as Recipe;

describe("the middle between walls", () => {
  it("is meant of the two that were chosen, else of the first two", () => {
    expect(wallsOf(recipe, null)?.map(({ id }) => id)).toEqual(["a", "b"]);
    expect(wallsOf(recipe, ["c", "a"])?.map(({ id }) => id)).toEqual(["c", "a"]);
    expect(wallsOf(recipe, ["c", "gone"])?.map(({ id }) => id)).toEqual(["c", "a"]);
    expect(wallsOf({ ...recipe, references: recipe.references.slice(0, 2) }, null)).toBeNull();
  });

  it("lies half way", () => {
    expect(middleBetween(plainMesh(100, 100), [plumb("a", 20), plumb("b", 60)])).toBeCloseTo(42, 9);
  });
});

describe("lines in the frame", () => {
  const rect: Rect = [10, 20, 300, 200];
  const shapes: Shapes = {
    ratios: [],
    papers: [], units: [],
    spiral: [
      [0, 1],
      [1, 0.5],
    ],
  };

  function drawn(families: readonly Family[], spiral = 0, subject: Rect | null = null) {
    const { container } = render(composeLines({ rect, families, spiral, between: 77, subject, scale: 0.5, shapes }));
    return container;
  }
  const first = (container: HTMLElement) => container.querySelector("path")!.getAttribute("d");

  it("lie at their shares of the frame", () => {
    expect(first(drawn(["centre"]))).toBe("M160 20v200M10 120h300");
    expect(first(drawn(["thirds"]))).toContain("M110 20v200");
    expect(first(drawn([]))).toBe("");
  });

  it("halve the corners' angles, whatever the ratio", () => {
    expect(diagonals(rect)).toBe("M10 20l200 200M310 20l-200 200M10 220l200 -200M310 220l-200 -200");
  });

  it("wind into each of the four corners", () => {
    expect([0, 1, 2, 3].map((corner) => first(drawn(["spiral"], corner)))).toEqual(["M10 220L310 120", "M310 220L10 120", "M10 20L310 120", "M310 20L10 120"]);
  });

  it("measure how far the subject is from either side, in pixels of the picture", () => {
    const words = [...drawn(["margins"], 0, [60, 100, 100, 20]).querySelectorAll("text")].map((one) => one.textContent);
    expect(words).toEqual(["left 100 px", "right 300 px"]);
  });

  it("can all be shown at once", () => {
    expect(drawn(FAMILIES, 0, [60, 100, 100, 20]).innerHTML).toContain("M77 20v200");
  });
});
