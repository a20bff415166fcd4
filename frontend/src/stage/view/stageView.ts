import { createStore } from "zustand/vanilla";

import type { Point } from "../../session/mesh";
import { fitView, panned, type Size, type View, type Zoom, zoomedAt } from "./view";

const UNKNOWN: Size = { width: 0, height: 0 };

/** Zoom and pan of a stage: "fit" shows all of what is on it. */
export class StageView {
  readonly store = createStore<{ view: View; fitted: boolean; size: Size }>(() => ({ view: { scale: 1, x: 0, y: 0 }, fitted: true, size: UNKNOWN }));
  private fits: View = { scale: 1, x: 0, y: 0 };
  private zoom: Zoom = "fit";

  /** What is shown, in corrected pixels, the stage's size, and the height that its controls take at the foot. */
  show(points: readonly Point[], size: Size, foot: number) {
    if (points.length && size.width > 0) {
      const wanted = fitView(points, size, foot);
      if (wanted.scale !== this.fits.scale || wanted.x !== this.fits.x || wanted.y !== this.fits.y) this.fits = wanted;
    }
    this.tell(size);
  }

  fit = () => this.go("fit");

  zoomTo = (scale: number) => {
    const { view, size } = this.store.getState();
    this.go(zoomedAt(view, size, [size.width / 2, size.height / 2], scale / view.scale, this.smallest));
  };

  zoomBy = (factor: number, at?: Point) => {
    const { view, size } = this.store.getState();
    this.go(zoomedAt(view, size, at ?? [size.width / 2, size.height / 2], factor, this.smallest));
  };

  pan = (dx: number, dy: number) => this.go(panned(this.store.getState().view, dx, dy));

  private get smallest(): number {
    return Math.min(this.fits.scale, 1) / 2;
  }

  private go(zoom: Zoom) {
    this.zoom = zoom;
    this.tell(this.store.getState().size);
  }

  private tell(size: Size) {
    const before = this.store.getState();
    const view = this.zoom === "fit" ? this.fits : this.zoom;
    const fitted = this.zoom === "fit";
    const same = size.width === before.size.width && size.height === before.size.height;
    if (view !== before.view || fitted !== before.fitted || !same) this.store.setState({ view, fitted, size: same ? before.size : size });
  }
}
