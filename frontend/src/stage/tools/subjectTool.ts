import { pair, type Point } from "../../session/mesh";
import type { Bench, Tool } from "./hands";

/** Marks what matters most: a click is a point, a drag a box. */
export function subjectTool({ session, surface, hands }: Bench): Tool {
  const mark = () => hands.getState().mark;
  const dragged = (point: Point) => {
    const now = mark();
    if (now) hands.setState({ mark: { ...now, to: surface.photoOf(point) } });
  };
  return {
    serves: () => session.desk.getState().marking && session.desk.getState().step === "frame",
    cursor: "crosshair",
    holds: () => mark() !== null || session.desk.getState().marking,
    down: (point) => {
      const at = surface.photoOf(point);
      hands.setState({ mark: { from: at, to: at } });
      return true;
    },
    move: (point, press) => {
      if (press?.moved) dragged(point);
    },
    up: (point, press) => {
      if (press.moved) dragged(point);
      const made = mark();
      hands.setState({ mark: null });
      session.desk.setState({ marking: false });
      if (made) void session.do({ do: "subject", mark: [pair(made.from), pair(made.to)] });
    },
  };
}
