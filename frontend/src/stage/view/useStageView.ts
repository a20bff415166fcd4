import { useCallback, useLayoutEffect, useRef, useState } from "react";

import type { Rect } from "../tools/frameGeometry";
import { between, edgeOf, type Mesh, type Point } from "../../session/mesh";
import { fitView, panned, type Size, type View, type Zoom, zoomedAt } from "./view";

const EASE_MS = 150;

const calm = () => window.matchMedia?.("(prefers-reduced-motion: reduce)").matches ?? false;

/** The mesh as it is drawn now: it eases to a new one, unless the hand is leading it. */
export function useEasedMesh(target: Mesh | null, led: boolean): Mesh | null {
  const [drawn, setDrawn] = useState<Mesh | null>(target);
  const last = useRef<Mesh | null>(target);
  // Before the paint, so that no stale mesh is seen when the hand lets go.
  useLayoutEffect(() => {
    const from = last.current;
    const show = (mesh: Mesh | null) => {
      last.current = mesh;
      setDrawn(mesh);
    };
    if (led) {
      last.current = target;
      return;
    }
    if (!target || !from || calm() || near(from, target)) {
      show(target);
      return;
    }
    let frame = 0;
    const start = performance.now();
    const tick = (now: number) => {
      const share = Math.min(1, Math.max(0, (now - start) / EASE_MS));
      show(between(from, target, share * share * (3 - 2 * share)));
      if (share < 1) frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [target, led]);
  return led ? target : drawn;
}

/** Whether nobody would see the way from one to the other: no corner moves by a thousandth of the picture. */
function near(a: Mesh, b: Mesh): boolean {
  if (a.width !== b.width || a.vertices.length !== b.vertices.length) return false;
  const corners = edgeOf(b);
  return edgeOf(a).every(([x, y], at) => Math.hypot(x - corners[at]![0], y - corners[at]![1]) < a.width / 1000);
}

export interface StageView {
  view: View;
  fitted: boolean;
  fit: () => void;
  zoomTo: (scale: number) => void;
  zoomBy: (factor: number, at?: Point) => void;
  pan: (dx: number, dy: number) => void;
}

const cornersOf = (frame: Rect | null): Point[] => (frame ? [[frame[0], frame[1]], [frame[0] + frame[2], frame[1] + frame[3]]] : []);

/** Zoom and pan of the stage; a `frame` that reaches beyond the picture is shown whole too. While the hand leads the picture, "fit" holds still instead of breathing with it. */
export function useStageView(mesh: Mesh | null, stage: Size, foot: number, held: boolean, frame: Rect | null): StageView {
  const [zoom, setZoom] = useState<Zoom>("fit");
  const [fitted, setFitted] = useState<View>({ scale: 1, x: 0, y: 0 });
  const wanted = mesh && stage.width > 0 && !held ? fitView([...edgeOf(mesh), ...cornersOf(frame)], stage, foot) : null;
  if (wanted && (wanted.scale !== fitted.scale || wanted.x !== fitted.x || wanted.y !== fitted.y)) setFitted(wanted);
  const view = zoom === "fit" ? fitted : zoom;
  const smallest = Math.min(fitted.scale, 1) / 2;
  const change = useCallback(
    (next: (view: View) => View) => setZoom((now) => next(now === "fit" ? fitted : now)),
    [fitted],
  );
  const { width, height } = stage;
  const zoomBy = useCallback(
    (factor: number, at?: Point) =>
      change((now) => zoomedAt(now, { width, height }, at ?? [width / 2, height / 2], factor, smallest)),
    [change, width, height, smallest],
  );
  const zoomTo = useCallback(
    (scale: number) =>
      change((now) => zoomedAt(now, { width, height }, [width / 2, height / 2], scale / now.scale, smallest)),
    [change, width, height, smallest],
  );
  return {
    view,
    fitted: zoom === "fit",
    fit: useCallback(() => setZoom("fit"), []),
    zoomTo,
    zoomBy,
    pan: (dx, dy) => change((now) => panned(now, dx, dy)),
  };
}
