import { USUAL } from "../../api/limits";
import { freeId } from "../../session/ahead";
import { type Drawn, hasArea } from "../../session/areas";
import { pair, type Point } from "../../session/mesh";
import { usePreferences } from "../../session/preferences";
import { baseNow } from "../../session/session";
import type { Bench, Stroke, Tool } from "./hands";

/** CSS px between two points of a stroke, and within which the first point closes an outline. */
const APART = 3;
const CLOSES = 12;

export const usualBrush = (longer: number): number => Math.max(3, Math.round(USUAL.brush * longer));
export const usualFeather = (longer: number): number => Math.max(1, Math.round(USUAL.feather * longer));

/**
 * Draws areas on the picture: a drag brushes or goes around; clicks set the corners of an outline, and one on the first
 * closes it; a click with the brush is a dab.
 */
export function pencilTool({ session, surface, hands }: Bench): Tool {
  const stroke = () => hands.getState().stroke;
  const draw = (next: Stroke | null) => hands.setState({ stroke: next });
  const drawing = () => session.desk.getState().drawing;
  const far = (point: Point, from: Point | undefined) => {
    if (!from) return Infinity;
    const { view } = surface.scene.getState();
    const at = surface.correctedOf(point);
    return Math.hypot(at[0] - from[0], at[1] - from[1]) * view.scale;
  };

  const usual = () => {
    const { width = 1, height = 1 } = baseNow(session.known.getState())?.photo ?? {};
    const longer = Math.max(width, height);
    return { longer, radius: usePreferences.getState().around ? null : (session.desk.getState().brush ?? usualBrush(longer)) };
  };

  const keepIt = (made: Drawn) => {
    const kind = drawing();
    draw(null);
    if (!kind || !hasArea(made)) return;
    const { touch_ups, donors } = baseNow(session.known.getState())?.edges ?? { touch_ups: [], donors: [] };
    const area = kind === "touch-up" ? freeId(touch_ups, "t") : freeId(donors, "d");
    const { feather } = session.desk.getState();
    void session.do({ do: "draw", what: kind, area, points: made.points.map(pair), radius: made.radius, feather }).then(() => session.desk.setState({ area }));
  };

  /** For those who draw by keys: a dab, or a square, where the middle of the stage is. */
  const inTheMiddle = () => {
    const { radius, longer } = usual();
    const size = usualBrush(longer);
    const { x, y } = surface.scene.getState().view;
    const square: Point[] = [[-size, -size], [size, -size], [size, size], [-size, size]];
    keepIt({ radius, points: radius === null ? square.map(([dx, dy]): Point => [x + dx, y + dy]) : [[x, y]] });
  };

  return {
    serves: () => session.desk.getState().step === "edges" && session.desk.getState().shown === "corrected" && drawing() !== null,
    cursor: "crosshair",
    holds: () => stroke() !== null,
    down: (point) => {
      const kind = drawing();
      if (kind && !stroke()?.byClicks) draw({ drawing: kind, points: [surface.correctedOf(point)], radius: usual().radius, byClicks: false });
      return true;
    },
    move: (point, press) => {
      const now = stroke();
      if (!now || now.byClicks || !press?.moved) return;
      if (far(point, now.points[now.points.length - 1]) >= APART) draw({ ...now, points: [...now.points, surface.correctedOf(point)] });
    },
    up: (point, press) => {
      const now = stroke();
      if (!now) return;
      const further = { ...now, points: [...now.points, surface.correctedOf(point)] };
      if (now.byClicks) return far(point, now.points[0]) <= CLOSES ? keepIt(now) : draw(further);
      if (!press.moved && now.radius === null) return draw({ ...now, byClicks: true });
      keepIt(press.moved ? further : now);
    },
    key: (event) => {
      if (event.key !== "Enter") return false;
      const now = stroke();
      if (now) keepIt(now);
      else inTheMiddle();
      return true;
    },
  };
}
