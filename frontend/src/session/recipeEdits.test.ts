import { describe, expect, it } from "vitest";

import type { Recipe } from "../api/client";
import {
  asKind,
  asLaid,
  clockwise,
  dragged,
  handFor,
  handTerm,
  holdsTogether,
  kindFor,
  markOf,
  movedLine,
  newReference,
  replaced,
  withAmount,
  withFocalFree,
  withHand,
  withLensByHand,
  withLensFromStraight,
  withoutHand,
  withoutLens,
  withProfile,
  withOn,
  withPoint,
  withPrint,
  withReferences,
} from "./recipeEdits";

const RECIPE = {
  format: "sequor-recipe",
  version: 1,
  photo: { width: 300, height: 200 },
  lens: { source: "none", model: "brown", unit_px: null, k1: 0, k2: 0, k3: 0, p1: 0, p2: 0, profile: null },
  references: [],
  correction: {
    free: ["roll"],
    roll: 2.3,
    pitch: 0,
    yaw: 0,
    by_hand: { roll: 0.5, pitch: 0, yaw: 0 },
    on: { roll: true, pitch: true, yaw: true },
    amount: { roll: 1, pitch: 1, yaw: 1 },
    focal_px: null,
  },
} as unknown as Recipe;

describe("edits of the recipe", () => {
  it("takes a kind by its slope only while none was chosen", () => {
    expect(kindFor("slope", [0, 0], [100, 40])).toBe("level");
    expect(kindFor("slope", [0, 0], [40, -100])).toBe("plumb");
    expect(kindFor("plumb", [0, 0], [100, 40])).toBe("plumb");
  });

  it("asks for a new solution when a line changes, and never reuses an id", () => {
    const first = newReference(RECIPE, "level", [[1.2345, 2], [90, 3]], 0.7, "1");
    expect(first).toMatchObject({ id: "r1", points: [[1.23, 2], [90, 3]], sigma_px: 0.7, active: true });
    const one = withReferences(RECIPE, [{ ...first, id: "r2" }]);
    expect(one.correction).toMatchObject({ roll: null, pitch: null, yaw: null });
    expect(newReference(one, "plumb", [[0, 0], [1, 1]], 1, "1").id).toBe("r3");
    expect(RECIPE.correction.roll).toBe(2.3);
  });

  it("moves an end or the whole", () => {
    const line = newReference(RECIPE, "level", [[10, 10], [90, 20]], 1, "1");
    expect(movedLine(line, 1, 5, -5, 0.5)).toMatchObject({ points: [[10, 10], [95, 15]], sigma_px: 0.5 });
    expect(movedLine(line, "all", -1, 1, 1).points).toEqual([[9, 11], [89, 21]]);
    const recipe = withReferences(RECIPE, [line]);
    expect(replaced(recipe, { ...line, kind: "witness" }).references[0]?.kind).toBe("witness");
  });

  it("changes only the hand's part, each angle within its range", () => {
    expect(handFor(RECIPE, "roll", 0.25)).toBe(0.75);
    expect(handFor(RECIPE, "roll", 90)).toBe(45);
    expect(handFor(RECIPE, "pitch", 90)).toBe(60);
    expect(withHand(RECIPE, "yaw", -3).correction).toMatchObject({ roll: 2.3, by_hand: { roll: 0.5, yaw: -3 } });
    expect(withAmount(RECIPE, "pitch", 0.85).correction.amount).toEqual({ roll: 1, pitch: 0.85, yaw: 1 });
  });

  it("switches the correction off together with the hand's part", () => {
    const off = withOn(RECIPE, "roll", false).correction;
    expect([off.on.roll, off.by_hand.roll]).toEqual([false, 0]);
    expect(withOn(RECIPE, "roll", true).correction.by_hand.roll).toBe(0.5);
  });

  it("lays corners in whatever order, clockwise from the top left", () => {
    const laid = newReference(RECIPE, "rectangle", [[90, 10], [10, 12], [12, 70], [88, 72]], 1, "1");
    expect(laid.points).toEqual([[10, 12], [90, 10], [88, 72], [12, 70]]);
    expect(clockwise(dragged("rectangle", [80, 60], [20, 10]))).toEqual([[20, 10], [80, 10], [80, 60], [20, 60]]);
    expect(holdsTogether(laid)).toBe(true);
    expect(holdsTogether(movedLine(laid, 0, 70, 50, 1))).toBe(false);
  });

  it("gives a straight thing a middle to pull, and more points", () => {
    const laid = newReference(RECIPE, "straight", dragged("straight", [0, 0], [100, 20]), 1, "1");
    expect(laid.points).toEqual([[0, 0], [50, 10], [100, 20]]);
    expect(withPoint(movedLine(laid, 1, -30, 0, 1)).points).toEqual([[0, 0], [20, 10], [60, 15], [100, 20]]);
  });

  it("changes a kind together with its points, group and shape", () => {
    const level = newReference(RECIPE, "level", [[10, 10], [90, 20]], 1, "1");
    expect(asKind(level, "receding", "2")).toMatchObject({ kind: "receding", group: "2", points: [[10, 10], [90, 20]] });
    expect(asKind(level, "straight", "1").points).toHaveLength(3);
    const box = asKind(level, "rectangle", "1");
    expect(box.points).toEqual([[10, 10], [90, 10], [90, 20], [10, 20]]);
    expect(asKind({ ...box, shape: [2, 3] }, "plumb", "1")).toMatchObject({ kind: "plumb", points: [[10, 10], [90, 10]], shape: null });
  });

  it("goes back to a line as it was laid, and lays it anew when it is moved", () => {
    const note = { laid: [[1, 1], [90, 9]], laid_sigma_px: 2, clarity: 0.9, moved_px: 3 };
    const snapped = { ...newReference(RECIPE, "level", [[1, 3], [90, 8]], 0.2, "1"), "x-snap": note };
    expect(asLaid(snapped)).toMatchObject({ points: [[1, 1], [90, 9]], sigma_px: 2 });
    expect(movedLine(snapped, 0, 1, 1, 1)["x-snap"]).toBeUndefined();
  });

  it("finds the focal length from the lines on request only", () => {
    const free = withFocalFree(RECIPE, true).correction;
    expect(free).toMatchObject({ free: ["roll", "focal_px"], focal_px: null, roll: null });
    expect(withFocalFree({ ...RECIPE, correction: free }, false).correction.free).toEqual(["roll"]);
  });
});

describe("the lens of the recipe", () => {
  const PROFILE = { ...RECIPE.lens, source: "profile", model: "poly3", unit_px: 100, profile: { camera: "A", lens: "B", focal_mm: 12, terms: [-0.02] } } as Recipe["lens"];

  it("asks for a new solution and leaves the lines where they were laid", () => {
    const laid = withReferences(RECIPE, [newReference(RECIPE, "level", [[0, 0], [100, 5]], 1, "1")]);
    const profiled = withProfile({ ...laid, correction: { ...laid.correction, roll: 1, pitch: 0, yaw: 0 } }, PROFILE);
    expect(profiled.lens.profile?.lens).toBe("B");
    expect(profiled.correction.roll).toBeNull();
    expect(profiled.references).toEqual(laid.references);
  });

  it("finds terms from straight things, anew with every line, and holds them no more when another way is taken", () => {
    const straight = withLensFromStraight(RECIPE, true);
    expect(straight.correction.free).toEqual(["roll", "k1", "k2"]);
    const solved = { ...straight, lens: { ...straight.lens, k1: -0.1, k2: 0.01 } };
    expect(withReferences(solved, []).lens).toMatchObject({ source: "straight", k1: 0, k2: 0 });
    expect(withoutLens(solved).correction.free).toEqual(["roll"]);
    expect(withoutLens(solved).lens).toMatchObject({ source: "none", k1: 0 });
  });

  it("remembers what the hand had given while something else takes the bending out", () => {
    const away = withProfile(withLensByHand(RECIPE, -0.08), PROFILE);
    expect(handTerm(away)).toBe(-0.08);
    const back = withLensByHand(away, handTerm(away));
    expect(back.lens).toMatchObject({ source: "manual", k1: -0.08, profile: null });
  });

  it("puts every angle of the hand and the proportion back at once", () => {
    const turned = { ...withHand(withHand(RECIPE, "roll", 1), "yaw", 3) };
    const back = withoutHand({ ...turned, correction: { ...turned.correction, proportion: 1.1 } });
    expect(back.correction.by_hand).toEqual({ roll: 0, pitch: 0, yaw: 0 });
    expect(back.correction.proportion).toBe(1);
  });
});

const FRAME = { ratio: "original", rect: null, allow_empty: false, subject: null, print: null };
const FRAMED = { ...RECIPE, frame: FRAME, edges: { mode: "trim" }, export: { format: "jpeg", quality: 95, size: null } } as unknown as Recipe;

describe("the subject mark", () => {
  it("is a point for a click and a box for a drag, whichever way it goes", () => {
    expect(markOf(FRAMED, [10, 20])).toEqual([10, 20]);
    expect(markOf(FRAMED, [110, 20], [10, 90])).toEqual([10, 20, 100, 70]);
  });

  it("stays on the photo", () => {
    expect(markOf(FRAMED, [-50, -50], [400, 150])).toEqual([0, 0, 300, 150]);
    expect(markOf(FRAMED, [500, 90])).toEqual([300, 90]);
  });
});

describe("a paper taken away", () => {
  it("takes the size that was the print's with it, and no other", () => {
    const print = { paper: [6, 4], unit: "in", border: 0, trim: 0, ppi: 300 } as Parameters<typeof withPrint>[1];
    const wanted = { ...withPrint(FRAMED, print), export: { ...FRAMED.export, size: "print" as const } };
    expect(withPrint(wanted, null)).toMatchObject({ frame: { print: null }, export: { size: null } });
    const typed = { ...wanted, export: { ...FRAMED.export, size: [600, 400] as [number, number] } };
    expect(withPrint(typed, null).export.size).toEqual([600, 400]);
  });
});
