import { SHARES } from "../../api/limits";
import { pair, type Point } from "../../session/mesh";
import type { Family } from "../../session/model";
import { usePreferences } from "../../session/preferences";
import { recipeNow } from "../../session/session";
import type { Rect } from "./frameGeometry";
import { frameNow } from "./frameTool";
import type { Bench, Placing, Tool } from "./hands";

/** Stage pixels within which the mark is grasped, and a line of the frame is meant. */
const REACH = 22;
/** Milliseconds and stage pixels within which a second press belongs to the first. */
const [SOON, NEAR] = [400, 6];

/** The lines of the frame that something can be put on: those that are shown, else the thirds. */
export function sharesShown(families: readonly Family[]): number[] {
  const shown = families.flatMap((family): readonly number[] => (family in SHARES ? SHARES[family as keyof typeof SHARES] : []));
  return shown.length ? shown : [...SHARES.thirds];
}

/** The share whose line is near enough to a place along a side. */
export function caught(at: number, start: number, length: number, shares: readonly number[], reach: number): number | null {
  const [nearest] = [...shares].sort((a, b) => Math.abs(start + length * a - at) - Math.abs(start + length * b - at));
  return nearest !== undefined && Math.abs(start + length * nearest - at) <= reach ? nearest : null;
}

/** The subject on the picture itself: marked by two quick presses, and dragged onto a line of the frame or where two cross. */
export function placeTool({ session, surface, hands }: Bench): Tool {
  const held = () => hands.getState().placing;
  const known = () => session.known.getState();
  let last: { at: Point; time: number } | null = null;

  const middle = (): Point | null => {
    const mark = recipeNow(known())?.frame.subject;
    if (!mark) return null;
    const [x, y, width = 0, height = 0] = mark;
    return surface.stageOf([x + width / 2, y + height / 2]);
  };
  const near = (point: Point) => {
    const at = middle();
    return at !== null && Math.hypot(at[0] - point[0], at[1] - point[1]) <= REACH;
  };
  const over = (point: Point, armed: boolean): Placing => {
    const frame: Rect = frameNow(known()) ?? [0, 0, 0, 0];
    const shares = sharesShown(usePreferences.getState().families);
    const [x, y] = surface.correctedOf(point);
    const reach = REACH / surface.scene.getState().view.scale;
    return { at: point, armed, across: caught(x, frame[0], frame[2], shares, reach), down: caught(y, frame[1], frame[3], shares, reach) };
  };
  const twice = (point: Point) => last !== null && performance.now() - last.time < SOON && Math.hypot(last.at[0] - point[0], last.at[1] - point[1]) <= NEAR;

  return {
    serves: () => {
      const { step, shown } = session.desk.getState();
      return step === "frame" && shown === "corrected";
    },
    cursor: "default",
    holds: () => held() !== null,
    down: (point) => {
      if (held()?.armed) return true;
      if (twice(point)) {
        last = null;
        hands.setState({ frame: null });
        session.dropDraft();
        void session.do({ do: "subject", mark: [pair(surface.photoOf(point))] });
        return true;
      }
      last = { at: point, time: performance.now() };
      if (hands.getState().frame || !near(point)) return false;
      hands.setState({ placing: { at: point, armed: false, across: null, down: null } });
      return true;
    },
    move: (point, press) => {
      const now = held();
      if (now && (now.armed || press?.moved)) hands.setState({ placing: over(point, now.armed) });
    },
    up: (point, press) => {
      const now = held();
      if (!now) return;
      if (!now.armed && !press.moved) return hands.setState({ placing: { ...now, armed: true } });
      const { across, down } = over(point, false);
      hands.setState({ placing: null });
      if (across !== null || down !== null) void session.do({ do: "place", what: "subject", lines: [], across, down });
    },
  };
}
