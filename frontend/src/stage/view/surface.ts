import { createStore } from "zustand/vanilla";

import { around } from "../../session/around";
import { widens } from "../../session/desk";
import { between, edgeOf, type Mesh, plainMesh, type Point, toCorrected, toPhoto } from "../../session/mesh";
import { baseNow, type Known, meshNow, recipeNow, type Session, shownNow } from "../../session/session";
import type { Rect } from "../tools/frameGeometry";
import { type Content, StageView } from "./stageView";
import { fromStage, type Size, toStage, type View } from "./view";

const EASE_MS = 150;
const CONTROLS = 40;
const BELOW_CONTROLS = 8;

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
  private head = CONTROLS + BELOW_CONTROLS;
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
        if (now.shown !== before.shown || now.step !== before.step || widens(now) !== widens(before)) this.follow();
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
    this.view.show(this.content(), size, this.head);
  }

  setControlsHeight = (height: number) => {
    this.head = height + BELOW_CONTROLS;
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
    this.view.show(this.content(), this.view.store.getState().size, this.head);
  }

  /** What is to be seen: the frame where the picture is corrected, and all of the picture. */
  private content(): Content {
    const { drawn: mesh } = this;
    const known = this.session.known.getState();
    if (!mesh) return { frame: [], whole: [] };
    const edge = edgeOf(mesh);
    const { shown, step } = this.session.desk.getState();
    const frame = shown === "corrected" ? (recipeNow(known)?.frame.rect ?? frameOf(known)) : null;
    const whole = frame && recipeNow(known)?.frame.allow_empty ? [...edge, ...cornersOf(frame)] : edge;
    // Where the frame itself is worked on, there is room about it.
    return { frame: frame && step !== "frame" ? cornersOf(frame) : whole, whole };
  }
}

function frameOf(known: Known): Rect | null {
  const frame = shownNow(known)?.frame;
  return frame ? [frame.x, frame.y, frame.width, frame.height] : null;
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
