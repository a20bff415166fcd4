import type { Recipe } from "../../api/client";
import type { Point } from "../../session/mesh";
import type { Rect } from "../tools/frameGeometry";
import { toStage } from "../view/view";
import type { Scene } from "../view/surface";

/** All of the stage, and nothing of it takes the pointer. */
export const OVER = { position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" } as const;

/** A rectangle in corrected pixels on the stage. */
export const rectOnStage = ({ view, size }: Scene, [x, y, width, height]: Rect): Rect => [...toStage(view, size, [x, y]), width * view.scale, height * view.scale];

export const outlineOnStage = ({ view, size }: Scene, outline: readonly Point[]): Point[] => outline.map((point) => toStage(view, size, point));

/** A closed way through points. */
export const closed = (points: readonly Point[]): string => `M${points.map((point) => point.join(" ")).join("L")}Z`;

/** The corners of a subject mark in photo pixels, one for a point. */
export function cornersOf([x, y, width = 0, height = 0]: NonNullable<Recipe["frame"]["subject"]>): Point[] {
  if (!width && !height) return [[x, y]];
  return [[x, y], [x + width, y], [x + width, y + height], [x, y + height]];
}

export function boxAbout(corners: readonly Point[]): Rect {
  const [xs, ys] = [corners.map(([x]) => x), corners.map(([, y]) => y)];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  return [left, top, Math.max(...xs) - left, Math.max(...ys) - top];
}
