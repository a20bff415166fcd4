/**
 * The mesh that the core computed, as the one thing the page knows of the correction.
 *
 * Vertex (i, j) carries the photo point (j / columns * width, i / rows * height) to homogeneous
 * corrected pixels (X, Y, W). Inside a cell they are interpolated, which is exact for a homography.
 */
export interface Mesh {
  columns: number;
  rows: number;
  width: number;
  height: number;
  vertices: Float32Array;
}

export type Point = readonly [number, number];

/** A point as it goes over the wire. */
export const pair = ([x, y]: Point): [number, number] => [x, y];

interface Wire {
  columns: number;
  rows: number;
  vertices: string;
}

export function meshFrom(wire: Wire, width: number, height: number): Mesh {
  const letters = atob(wire.vertices);
  const bytes = new Uint8Array(letters.length);
  // A plain loop: Uint8Array.from with a function takes twenty times as long, and this runs with every move.
  for (let at = 0; at < bytes.length; at++) bytes[at] = letters.charCodeAt(at);
  return { columns: wire.columns, rows: wire.rows, width, height, vertices: new Float32Array(bytes.buffer) };
}

const PLAIN_COLUMNS = 16;
const PLAIN_ROWS = 12;

/** The photo as it was taken: every point stays where it is. */
export function plainMesh(width: number, height: number, columns = PLAIN_COLUMNS, rows = PLAIN_ROWS): Mesh {
  const vertices = new Float32Array((columns + 1) * (rows + 1) * 3);
  for (let i = 0, at = 0; i <= rows; i++)
    for (let j = 0; j <= columns; j++, at += 3) vertices.set([(j / columns) * width, (i / rows) * height, 1], at);
  return { columns, rows, width, height, vertices };
}

/** Corrected pixels of a photo point; outside the photo the nearest cell is carried on. */
export function toCorrected(mesh: Mesh, [x, y]: Point): Point {
  const u = (x / mesh.width) * mesh.columns;
  const v = (y / mesh.height) * mesh.rows;
  const j = Math.min(Math.max(Math.floor(u), 0), mesh.columns - 1);
  const i = Math.min(Math.max(Math.floor(v), 0), mesh.rows - 1);
  const [s, t] = [u - j, v - i];
  const row = mesh.columns + 1;
  const corner = (di: number, dj: number, k: number) => mesh.vertices[((i + di) * row + j + dj) * 3 + k] ?? 0;
  const at = (k: number) =>
    (1 - t) * ((1 - s) * corner(0, 0, k) + s * corner(0, 1, k)) + t * ((1 - s) * corner(1, 0, k) + s * corner(1, 1, k));
  const w = at(2);
  return [at(0) / w, at(1) / w];
}

/** The photo point that lies at a corrected pixel: Newton's method on the mesh. */
export function toPhoto(mesh: Mesh, target: Point): Point {
  let point: Point = [mesh.width / 2, mesh.height / 2];
  const step = Math.max(mesh.width, mesh.height) / 100;
  for (let round = 0; round < 25; round++) {
    const here = toCorrected(mesh, point);
    const right = toCorrected(mesh, [point[0] + step, point[1]]);
    const down = toCorrected(mesh, [point[0], point[1] + step]);
    const [a, c] = [(right[0] - here[0]) / step, (right[1] - here[1]) / step];
    const [b, d] = [(down[0] - here[0]) / step, (down[1] - here[1]) / step];
    const [ex, ey] = [target[0] - here[0], target[1] - here[1]];
    const det = a * d - b * c;
    // Beyond the lens's reach everything lies on one line: the last point is as near as there is.
    if (!(Math.abs(det) > 1e-9)) break;
    const [dx, dy] = [(d * ex - b * ey) / det, (a * ey - c * ex) / det];
    point = [point[0] + dx, point[1] + dy];
    if (Math.hypot(dx, dy) < 1e-3) break;
  }
  return point;
}

/** A mesh on the way from one to another: share 0 is `from`, 1 is `to`. */
export function between(from: Mesh, to: Mesh, share: number): Mesh {
  if (share >= 1 || from.vertices.length !== to.vertices.length || from.width !== to.width) return to;
  return along(from, to, share);
}

/** A mesh on the line through two others of one grid, also beyond them: share 0 is `from`, 1 is `to`. */
export function along(from: Mesh, to: Mesh, share: number): Mesh {
  const [a, b] = [from.vertices, to.vertices];
  const vertices = new Float32Array(b.length);
  for (let at = 0; at < vertices.length; at += 3) {
    const [wa, wb] = [a[at + 2] ?? 1, b[at + 2] ?? 1];
    for (let k = at; k < at + 2; k++) {
      const [one, other] = [(a[k] ?? 0) / wa, (b[k] ?? 0) / wb];
      vertices[k] = one + (other - one) * share;
    }
    vertices[at + 2] = 1;
  }
  return { ...to, vertices };
}

/** The edge of the picture in corrected pixels, clockwise from the photo's top left, a point for every cell. */
export function edgeOf({ vertices, columns, rows }: Mesh): Point[] {
  const at = (i: number, j: number): Point => {
    const first = (i * (columns + 1) + j) * 3;
    const w = vertices[first + 2] ?? 1;
    return [(vertices[first] ?? 0) / w, (vertices[first + 1] ?? 0) / w];
  };
  const edge: Point[] = [];
  for (let j = 0; j < columns; j++) edge.push(at(0, j));
  for (let i = 0; i < rows; i++) edge.push(at(i, columns));
  for (let j = columns; j > 0; j--) edge.push(at(rows, j));
  for (let i = rows; i > 0; i--) edge.push(at(i, 0));
  return edge;
}

const BENT_STEPS = 12;

/** Where a thing that is straight once the lens is corrected lies on the photo: points from one end to the other. */
export function bentBetween(mesh: Mesh, from: Point, to: Point): Point[] {
  const [a, b] = [toCorrected(mesh, from), toCorrected(mesh, to)];
  return Array.from({ length: BENT_STEPS + 1 }, (_, step) => {
    const share = step / BENT_STEPS;
    return toPhoto(mesh, [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share]);
  });
}

/** Whether the lens's bending is in a mesh: then it is a fine one. */
export const isBent = (mesh: Mesh): boolean => mesh.columns > PLAIN_COLUMNS;
