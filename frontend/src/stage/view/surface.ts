import { createStore } from "zustand/vanilla";

import { around } from "../../session/around";
import { widens } from "../../session/desk";
import { between, edgeOf, type Mesh, plainMesh, type Point, toCorrected, toPhoto } from "../../session/mesh";
import { baseNow, meshNow, recipeNow, type Session } from "../../session/session";
import type { Rect } from "../tools/frameGeometry";
import { StageView } from "./stageView";
import { fromStage, type Size, toStage, type View } from "./view";

const EASE_MS = 150;
const CONTROLS = 44;
const ABOVE_CONTROLS = 32;

const calm = () => window.matchMedia?.("(prefers-reduced-motion: reduce)").matches ?? false;

/** What is drawn: the mesh on its way to the one that is true, how it lies on the stage. */
export interface Scene {
  mesh: Mesh | null;
  view: View;
  size: Size;
}

/** What the stage shows and where: follows the session without anything being drawn by React. */
export class Surface {
  readonly view = new StageView();
  readonly scene = createStore<Scene>(() => ({ mesh: null, ...this.view.store.getState() }));
  private foot = CONTROLS + ABOVE_CONTROLS;
  private plain: Mesh | null = null;
  private target: Mesh | null = null;
  private drawn: Mesh | null = null;
  private easing = 0;

  constructor(private readonly session: Session) {}

  /** Follow the session; gives what ends it. */
  start(): () => void {
    const ends = [
      this.session.known.subscribe(() => this.follow()),
      this.session.desk.subscribe((now, before) => {
        if (now.shown !== before.shown || widens(now) !== widens(before)) this.follow();
      }),
      this.view.store.subscribe(({ view, size }) => this.scene.setState({ mesh: this.drawn, view, size })),
    ];
    this.follow();
    return () => {
      cancelAnimationFrame(this.easing);
      ends.forEach((end) => end());
    };
  }

  resize(size: Size) {
    this.view.show(this.content(), size, this.foot);
  }

  setControlsHeight = (height: number) => {
    this.foot = height + ABOVE_CONTROLS;
    this.refit();
  };

  /** The photo as it was taken, as finely divided as what is seen corrected, so that one eases into the other. */
  plainMesh(): Mesh | null {
    const { seen } = this.session.known.getState();
    const photo = baseNow(this.session.known.getState())?.photo;
    if (!photo) return null;
    const { columns, rows } = seen?.mesh ?? {};
    const { plain } = this;
    const same = plain?.width === photo.width && plain.height === photo.height && (!columns || (plain.columns === columns && plain.rows === rows));
    if (!same) this.plain = plainMesh(photo.width, photo.height, columns, rows);
    return this.plain;
  }

  /** Where a point of the photo lies on the stage, and the other way round. */
  stageOf = (point: Point): Point => {
    const { mesh, view, size } = this.scene.getState();
    return mesh ? toStage(view, size, toCorrected(mesh, point)) : [0, 0];
  };

  photoOf = (point: Point): Point => {
    const { mesh, view, size } = this.scene.getState();
    return mesh ? toPhoto(mesh, fromStage(view, size, point)) : [0, 0];
  };

  /** Corrected pixels at a point of the stage. */
  correctedOf = (point: Point): Point => {
    const { view, size } = this.scene.getState();
    return fromStage(view, size, point);
  };

  private get led(): boolean {
    return this.session.known.getState().draft !== null;
  }

  private follow() {
    const known = this.session.known.getState();
    const target = this.session.desk.getState().shown === "corrected" ? meshNow(known) : this.plainMesh();
    if (target !== this.target) {
      this.target = target;
      cancelAnimationFrame(this.easing);
      const from = this.drawn;
      const follows = known.draft?.follow ?? false;
      if (follows || !from || !target || calm() || near(from, target)) this.draw(target);
      else this.ease(from, target);
    } else if (!this.led) this.refit();
  }

  private ease(from: Mesh, to: Mesh) {
    const start = performance.now();
    const tick = (now: number) => {
      const share = Math.min(1, Math.max(0, (now - start) / EASE_MS));
      this.draw(between(from, to, share * share * (3 - 2 * share)));
      if (share < 1) this.easing = requestAnimationFrame(tick);
    };
    this.easing = requestAnimationFrame(tick);
  }

  /** Mesh and view change together, so that what hears them draws once. */
  private draw(mesh: Mesh | null) {
    this.drawn = mesh;
    if (!this.led) this.refit();
    if (this.scene.getState().mesh !== mesh) this.scene.setState({ mesh });
  }

  /** While the hand leads the picture, "fit" holds still instead of breathing with it. */
  private refit() {
    this.view.show(this.content(), this.view.store.getState().size, this.foot);
  }

  /** What is to be seen: the picture, and a frame that reaches beyond it. */
  private content(): Point[] {
    const { drawn: mesh } = this;
    const recipe = recipeNow(this.session.known.getState());
    if (!mesh) return [];
    const corrected = this.session.desk.getState().shown === "corrected";
    const frame = corrected && recipe?.frame.allow_empty ? recipe.frame.rect : null;
    return frame ? [...edgeOf(mesh), ...cornersOf(frame)] : edgeOf(mesh);
  }
}

const cornersOf = ([x, y, width, height]: Rect): Point[] => [[x, y], [x + width, y + height]];

/** Whether nobody would see the way from one to the other: no corner moves by a thousandth of the picture. */
function near(a: Mesh, b: Mesh): boolean {
  if (a.width !== b.width || a.vertices.length !== b.vertices.length) return false;
  const corners = edgeOf(b);
  return edgeOf(a).every(([x, y], at) => {
    const other = around(corners, at);
    return Math.hypot(x - other[0], y - other[1]) < a.width / 1000;
  });
}
