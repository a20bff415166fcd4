import { describe, expect, it } from "vitest";

import { type Mesh, plainMesh } from "./mesh";
import { Trail } from "./trail";

/** A mesh that is shifted to the right by so many pixels. */
function shifted(by: number, width = 90): Mesh {
  const mesh = plainMesh(width, 60, 2, 2);
  return { ...mesh, vertices: mesh.vertices.map((value, at) => (at % 3 === 0 ? value + by : value)) };
}

const x = (mesh: Mesh | null) => mesh?.vertices[0];

describe("the mesh carried on", () => {
  it("goes on along the last two that the server gave", () => {
    const trail = new Trail();
    trail.add({ name: "roll", value: 1 }, shifted(10));
    expect(trail.at({ name: "roll", value: 1.2 })).toBeNull();
    trail.add({ name: "roll", value: 1.5 }, shifted(15));
    expect(x(trail.at({ name: "roll", value: 1.2 }))).toBeCloseTo(12, 4);
    expect(x(trail.at({ name: "roll", value: 1.7 }))).toBeCloseTo(17, 4);
  });

  it("goes no farther ahead than it can be trusted, and waits there", () => {
    const trail = new Trail();
    trail.add({ name: "roll", value: 0 }, shifted(0));
    trail.add({ name: "roll", value: 1 }, shifted(10));
    expect(x(trail.at({ name: "roll", value: 1.8 }))).toBeCloseTo(18, 4);
    expect(x(trail.at({ name: "roll", value: 9 }))).toBeCloseTo(18, 4);
    expect(x(trail.at({ name: "roll", value: -9 }))).toBeCloseTo(-8, 4);
  });

  it("starts anew with another number, and says nothing of meshes that do not match", () => {
    const trail = new Trail();
    trail.add({ name: "roll", value: 0 }, shifted(0));
    trail.add({ name: "roll", value: 1 }, shifted(10));
    expect(trail.at({ name: "pitch", value: 1 })).toBeNull();
    trail.add({ name: "pitch", value: 0 }, shifted(0));
    trail.add({ name: "pitch", value: 1 }, plainMesh(90, 60, 4, 4));
    expect(trail.at({ name: "pitch", value: 0.5 })).toBeNull();
    expect(trail.at({ name: "roll", value: 0.5 })).toBeNull();
  });

  it("takes the two that are nearest", () => {
    const trail = new Trail();
    for (const [value, by] of [[0, 0], [1, 10], [2, 30]] as const) trail.add({ name: "roll", value }, shifted(by));
    expect(x(trail.at({ name: "roll", value: 1.9 }))).toBeCloseTo(28, 4);
    expect(x(trail.at({ name: "roll", value: 0.1 }))).toBeCloseTo(1, 4);
  });
});
