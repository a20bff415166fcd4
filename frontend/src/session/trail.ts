import { along, type Mesh } from "./mesh";
import type { Led } from "./model";

/** How far beyond what the server gave a mesh is carried on: at 0.8 degrees it is 1.1 px off at most. */
const FARTHEST = 0.8;
const REMEMBERED = 4;

/** The last meshes that the server gave while one number was led, by which the next one is foreseen. */
export class Trail {
  private name = "";
  private known: { value: number; mesh: Mesh }[] = [];

  add({ name, value }: Led, mesh: Mesh) {
    if (name !== this.name) this.forget(name);
    this.known = [...this.known.filter((one) => one.value !== value), { value, mesh }].slice(-REMEMBERED);
  }

  /** The mesh where the number stands, or as near to it as can be told; null before two are known. */
  at({ name, value }: Led): Mesh | null {
    if (name !== this.name) return null;
    const [near, next] = [...this.known].sort((a, b) => Math.abs(a.value - value) - Math.abs(b.value - value));
    if (!near || !next || near.mesh.vertices.length !== next.mesh.vertices.length) return null;
    const reached = near.value + Math.min(FARTHEST, Math.max(-FARTHEST, value - near.value));
    return along(next.mesh, near.mesh, (reached - next.value) / (near.value - next.value));
  }

  forget(name = "") {
    this.name = name;
    this.known = [];
  }
}
