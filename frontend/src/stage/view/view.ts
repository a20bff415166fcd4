import type { Point } from "../../session/mesh";

/** How corrected pixels lie on the stage: `scale` CSS px for each, `x`, `y` the stage's middle in corrected pixels. */
export interface View {
  scale: number;
  x: number;
  y: number;
}

export interface Size {
  width: number;
  height: number;
}

/** Fit the frame, fit all of the picture, or CSS px for a corrected pixel about a point that stays in the middle. */
export type Zoom = "fit" | "whole" | View;

const MARGIN = 20;
export const LARGEST_SCALE = 8;

/** The view that shows all of these points; `head` is the height that the controls take from the stage. */
export function fitView(points: readonly Point[], stage: Size, head: number): View {
  const xs = points.map(([x]) => x);
  const ys = points.map(([, y]) => y);
  const [left, right] = [Math.min(...xs), Math.max(...xs)];
  const [top, bottom] = [Math.min(...ys), Math.max(...ys)];
  const scale = Math.min(
    (stage.width - 2 * MARGIN) / Math.max(1, right - left),
    (stage.height - MARGIN - head) / Math.max(1, bottom - top),
    LARGEST_SCALE,
  );
  const positive = Math.max(scale, 1e-4);
  // The row of controls takes room above, so the picture's middle lies below the stage's.
  return { scale: positive, x: (left + right) / 2, y: (top + bottom) / 2 - (head - MARGIN) / 2 / positive };
}

export function toStage(view: View, stage: Size, [x, y]: Point): Point {
  return [(x - view.x) * view.scale + stage.width / 2, (y - view.y) * view.scale + stage.height / 2];
}

export function fromStage(view: View, stage: Size, [x, y]: Point): Point {
  return [(x - stage.width / 2) / view.scale + view.x, (y - stage.height / 2) / view.scale + view.y];
}

/** How a picture that is reduced so many times is laid on the stage at a point. */
export const laidAt = ([x, y]: Point, reduced: number, view: View) =>
  ({
    position: "absolute",
    maxWidth: "none",
    transformOrigin: "0 0",
    transform: `translate(${x}px, ${y}px) scale(${reduced * view.scale})`,
    imageRendering: view.scale >= 1.9 ? "pixelated" : "auto",
  }) as const;

/** The view zoomed by a factor with one point of the stage held still. */
export function zoomedAt(view: View, stage: Size, at: Point, factor: number, smallest: number): View {
  const scale = Math.min(LARGEST_SCALE, Math.max(smallest, view.scale * factor));
  const [x, y] = fromStage(view, stage, at);
  return {
    scale,
    x: x - (at[0] - stage.width / 2) / scale,
    y: y - (at[1] - stage.height / 2) / scale,
  };
}

export function panned(view: View, dx: number, dy: number): View {
  return { ...view, x: view.x - dx / view.scale, y: view.y - dy / view.scale };
}
