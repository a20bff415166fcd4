import { createStore } from "zustand/vanilla";

import type { Point } from "../../session/mesh";
import { fitView, panned, type Size, type View, type Zoom, zoomedAt } from "./view";

const UNKNOWN: Size = { width: 0, height: 0 };

/** What there is to be seen, in corrected pixels: the frame, and all of the picture. */
export interface Content {
  frame: readonly Point[];
  whole: readonly Point[];
}

/** Zoom and pan of a stage: "fit" shows the frame, "whole" all of the picture. */
export class StageView {
  readonly store = createStore<{ view: View; fitted: "fit" | "whole" | null; size: Size }>(() => ({ view: { scale: 1, x: 0, y: 0 }, fitted: "fit", size: UNKNOWN }));
  private fits: Record<"fit" | "whole", View> = { fit: { scale: 1, x: 0, y: 0 }, whole: { scale: 1, x: 0, y: 0 } };
  private zoom: Zoom = "fit";

  /** What is shown, the stage's size, and the height that its controls take above. */
  show({ frame, whole }: Content, size: Size, head: number) {
    if (size.width > 0)
      for (const [name, points] of [["fit", frame], ["whole", whole]] as const) {
        if (!points.length) continue;
        const wanted = fitView(points, size, head);
        const before = this.fits[name];
        if (wanted.scale !== before.scale || wanted.x !== before.x || wanted.y !== before.y) this.fits[name] = wanted;
      }
    this.tell(size);
  }

  fit = () => this.go("fit");

  whole = () => this.go("whole");

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
    return Math.min(this.fits.whole.scale, 1) / 2;
  }

  private go(zoom: Zoom) {
    this.zoom = zoom;
    this.tell(this.store.getState().size);
  }

  private tell(size: Size) {
    const before = this.store.getState();
    const fitted = typeof this.zoom === "string" ? this.zoom : null;
    const view = typeof this.zoom === "string" ? this.fits[this.zoom] : this.zoom;
    const same = size.width === before.size.width && size.height === before.size.height;
    if (view !== before.view || fitted !== before.fitted || !same) this.store.setState({ view, fitted, size: same ? before.size : size });
  }
}
