import { useState } from "react";

import { type Drawing, type Drawn, hasArea, withDrawn } from "../../session/areas";
import { baseNow, keep, openSession, useBench } from "../../session/benchStore";
import type { Point } from "../../session/mesh";
import { fromStage, type Size, toStage, type View } from "../view/view";

/** CSS px between two points of a stroke, and within which the first point closes an outline. */
const APART = 3;
const CLOSES = 12;
/** Of the photo's longer side: the brush and its feather, where nothing else was said. */
const BRUSH = 0.015;
const FEATHER = 0.004;

export const usualBrush = (longer: number): number => Math.max(3, Math.round(BRUSH * longer));
export const usualFeather = (longer: number): number => Math.max(1, Math.round(FEATHER * longer));

const NAMES: Record<Drawing, string> = { "touch-up": "Touched up an area", "from here": "Marked “from here”", "not from here": "Marked “not from here”" };

type Stroke = Drawn & { drawing: Drawing; byClicks: boolean };

/**
 * Draws areas on the picture: a drag brushes or goes around; clicks set the corners of an outline, and one on the first
 * closes it; a click with the brush is a dab.
 */
export function usePencil(drawing: Drawing | null, view: View, stage: Size) {
  const [stroke, setStroke] = useState<Stroke | null>(null);
  const drawn = drawing ? stroke : null;

  const usual = () => {
    const { brush, around, bench } = useBench.getState();
    const { width = 1, height = 1 } = bench?.recipe.photo ?? {};
    return { radius: around ? null : (brush ?? usualBrush(Math.max(width, height))), longer: Math.max(width, height) };
  };

  const keepIt = (made: Drawn) => {
    setStroke(null);
    if (!drawing || !hasArea(made)) return;
    const { feather } = useBench.getState();
    const by = feather ?? usualFeather(usual().longer);
    const own = openSession();
    void keep((now) => withDrawn(now, drawing, made, by), NAMES[drawing]).then(() => {
      if (openSession() !== own) return;
      const recipe = baseNow(useBench.getState());
      const list = drawing === "touch-up" ? recipe?.edges.touch_ups : recipe?.edges.donors;
      useBench.setState({ area: list?.[list.length - 1]?.id ?? null });
    });
  };

  const on = (point: Point): Point => fromStage(view, stage, point);

  return {
    drawn,
    drop: () => setStroke(null),
    finish: () => drawn && keepIt(drawn),
    /** For those who draw by keys: a dab, or a square, where the middle of the stage is. */
    inTheMiddle: () => {
      const { radius, longer } = usual();
      const size = usualBrush(longer);
      const square: Point[] = [[-size, -size], [size, -size], [size, size], [-size, size]];
      keepIt({ radius, points: radius === null ? square.map(([x, y]): Point => [view.x + x, view.y + y]) : [[view.x, view.y]] });
    },
    down: (point: Point) => {
      if (!drawing || drawn?.byClicks) return;
      setStroke({ drawing, points: [on(point)], radius: usual().radius, byClicks: false });
    },
    move: (point: Point, moved: boolean) => {
      if (!drawn || drawn.byClicks || !moved) return;
      const last = toStage(view, stage, drawn.points[drawn.points.length - 1]!);
      if (Math.hypot(point[0] - last[0], point[1] - last[1]) >= APART) setStroke({ ...drawn, points: [...drawn.points, on(point)] });
    },
    up: (point: Point, moved: boolean) => {
      if (!drawn) return;
      if (drawn.byClicks) {
        const first = toStage(view, stage, drawn.points[0]!);
        if (Math.hypot(point[0] - first[0], point[1] - first[1]) <= CLOSES) return keepIt(drawn);
        return setStroke({ ...drawn, points: [...drawn.points, on(point)] });
      }
      if (!moved && drawn.radius === null) return setStroke({ ...drawn, byClicks: true });
      keepIt(moved ? { ...drawn, points: [...drawn.points, on(point)] } : drawn);
    },
  };
}
