import { describe, expect, it } from "vitest";

import { bentBetween, between, edgeOf, isBent, type Mesh, meshFrom, plainMesh, type Point, toCorrected, toPhoto } from "./mesh";

/** A homography written out by hand, row by row. */
const HOMOGRAPHY = [0.99, -0.05, 30, 0.06, 1.01, -20, 2e-5, -1e-5, 1] as const;

function carried([x, y]: Point): Point {
  const [a, b, c, d, e, f, g, h, i] = HOMOGRAPHY;
  const w = g * x + h * y + i;
  return [(a * x + b * y + c) / w, (d * x + e * y + f) / w];
}

function meshOfHomography(width: number, height: number, columns = 8, rows = 6): Mesh {
  const mesh = plainMesh(width, height, columns, rows);
  const [a, b, c, d, e, f, g, h, i] = HOMOGRAPHY;
  for (let at = 0; at < mesh.vertices.length; at += 3) {
    const [x, y] = [mesh.vertices[at]!, mesh.vertices[at + 1]!];
    mesh.vertices.set([a * x + b * y + c, d * x + e * y + f, g * x + h * y + i], at);
  }
  return mesh;
}

describe("the mesh", () => {
  const mesh = meshOfHomography(3000, 2000);

  it("is exact for a homography inside a cell, and carried on outside the photo", () => {
    for (const point of [[0, 0], [1234.5, 987.6], [2999, 1], [3100, -50]] as const) {
      const [x, y] = toCorrected(mesh, point);
      const [u, v] = carried(point);
      expect(x).toBeCloseTo(u, 2);
      expect(y).toBeCloseTo(v, 2);
    }
  });

  it("finds the way back", () => {
    for (const point of [[10, 10], [1500, 1000], [2900, 1950], [-40, 2030]] as const) {
      const [x, y] = toPhoto(mesh, toCorrected(mesh, point));
      expect(x).toBeCloseTo(point[0], 2);
      expect(y).toBeCloseTo(point[1], 2);
    }
  });

  it("leaves a photo as taken where it is", () => {
    expect(toCorrected(plainMesh(300, 200), [75, 50])).toEqual([75, 50]);
    expect(edgeOf(plainMesh(300, 200, 1, 1))).toEqual([[0, 0], [300, 0], [300, 200], [0, 200]]);
  });

  it("is read from the wire", () => {
    const values = new Float32Array([0, 0, 1, 90, 0, 1, 0, 60, 1, 90, 60, 1]);
    const letters = String.fromCharCode(...new Uint8Array(values.buffer));
    const read = meshFrom({ columns: 1, rows: 1, vertices: btoa(letters) }, 90, 60);
    expect([...read.vertices]).toEqual([...values]);
    expect(toCorrected(read, [45, 30])).toEqual([45, 30]);
  });

  it("eases from one to another", () => {
    const plain = plainMesh(3000, 2000, 8, 6);
    const [x0, y0] = toCorrected(plain, [300, 200]);
    const [x1, y1] = toCorrected(mesh, [300, 200]);
    const [x, y] = toCorrected(between(plain, mesh, 0.5), [300, 200]);
    expect(x).toBeCloseTo((x0 + x1) / 2, 0);
    expect(y).toBeCloseTo((y0 + y1) / 2, 0);
    expect(between(plain, mesh, 1)).toBe(mesh);
    expect(between(plainMesh(10, 10), mesh, 0.3)).toBe(mesh);
  });
});

describe("a bent mesh", () => {
  /** Barrel by hand: what was recorded at radius r belongs r (1 + 0.1 r²) from the middle, r in half widths. */
  const bent = plainMesh(3000, 2000, 64, 48);
  for (let at = 0; at < bent.vertices.length; at += 3) {
    const [x, y] = [bent.vertices[at]! - 1500, bent.vertices[at + 1]! - 1000];
    const grow = 1 + 0.1 * ((x * x + y * y) / 1500 ** 2);
    bent.vertices.set([1500 + x * grow, 1000 + y * grow, 1], at);
  }

  it("is told from a plain one, and carries points forth and back to a tenth of a pixel", () => {
    expect(isBent(bent)).toBe(true);
    expect(isBent(plainMesh(3000, 2000))).toBe(false);
    for (const point of [[20, 30], [1510, 990], [2950, 40]] as const) {
      const back = toPhoto(bent, toCorrected(bent, point));
      expect(Math.hypot(back[0] - point[0], back[1] - point[1])).toBeLessThan(0.1);
    }
  });

  it("shows where a straight thing runs on the photo: bowed outwards between its ends", () => {
    const way = bentBetween(bent, [300, 200], [2700, 200]);
    expect(way[0]![1]).toBeCloseTo(200, 0);
    const middle = way[Math.floor(way.length / 2)]!;
    expect(middle[0]).toBeCloseTo(1500, 0);
    expect(middle[1]).toBeLessThan(170);
  });

  it("has an edge of a point for every cell", () => {
    expect(edgeOf(bent)).toHaveLength(2 * (64 + 48));
  });
});
