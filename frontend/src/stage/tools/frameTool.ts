import type { Action } from "../../api/client";
import { widens } from "../../session/desk";
import type { Point } from "../../session/mesh";
import { type Known, readNow, recipeNow, type Session, shownNow } from "../../session/session";
import { moveFrame, type Rect, resizeFrame, type Room } from "./frameGeometry";
import type { Bench, FrameHand, Tool } from "./hands";

/** Corners and sides by which the frame is resized: which way each lies from the middle. */
export const HANDLES: readonly { name: string; side: Point }[] = [
  { name: "top left corner", side: [-1, -1] },
  { name: "top edge", side: [0, -1] },
  { name: "top right corner", side: [1, -1] },
  { name: "right edge", side: [1, 0] },
  { name: "bottom right corner", side: [1, 1] },
  { name: "bottom edge", side: [0, 1] },
  { name: "bottom left corner", side: [-1, 1] },
  { name: "left edge", side: [-1, 0] },
];

const REACH = 20;

export const handleAt = ([x, y, width, height]: Rect, [sx, sy]: Point): Point => [
  x + (width * (1 + sx)) / 2,
  y + (height * (1 + sy)) / 2,
];

/** The frame in corrected pixels as it stands, whatever is dragged included. */
export function frameNow(known: Known): Rect | null {
  const recipe = recipeNow(known);
  const seen = shownNow(known);
  return recipe?.frame.rect ?? (seen ? [seen.frame.x, seen.frame.y, seen.frame.width, seen.frame.height] : null);
}

/** Where the frame may lie now, and in which ratio. */
export function roomNow(session: Session): { room: Room; ratio: number | null } | null {
  const known = session.known.getState();
  const [seen, recipe] = [shownNow(known), recipeNow(known)];
  if (!seen || !recipe) return null;
  const allowEmpty = recipe.frame.allow_empty || widens(session.desk.getState());
  return { room: { outline: seen.outline, allowEmpty }, ratio: readNow(known)?.frame.shape ?? null };
}

/** Another frame, at the step where the hand is. */
export const setFrame = ({ desk }: Session, [x, y, width, height]: Rect): Action => ({
  do: widens(desk.getState()) ? "draw out" : "frame",
  rect: [x, y, width, height],
});

/** Moves and resizes the frame inside the outline that the server gave. */
export function frameTool({ session, surface, hands }: Bench): Tool {
  const held = () => hands.getState().frame;
  const hold = (frame: FrameHand | null) => hands.setState({ frame });

  const rectFor = ({ rect, side, from }: FrameHand, point: Point): Rect => {
    const { scale } = surface.scene.getState().view;
    const [dx, dy] = [(point[0] - from[0]) / scale, (point[1] - from[1]) / scale];
    const now = roomNow(session);
    if (!now) return rect;
    return side ? resizeFrame(rect, side, dx, dy, now.ratio, now.room) : moveFrame(rect, dx, dy, now.room);
  };

  return {
    serves: () => session.desk.getState().shown === "corrected" && (session.desk.getState().step === "frame" || widens(session.desk.getState())),
    cursor: "default",
    holds: () => held() !== null,
    down: (point) => {
      if (held()?.armed) return true;
      const frame = frameNow(session.known.getState());
      if (!frame) return false;
      const at = surface.correctedOf(point);
      const { scale } = surface.scene.getState().view;
      const handle = HANDLES.find(({ side }) => {
        const [x, y] = handleAt(frame, side);
        return Math.hypot(at[0] - x, at[1] - y) * scale <= REACH;
      });
      const [x, y, width, height] = frame;
      const inside = at[0] > x && at[0] < x + width && at[1] > y && at[1] < y + height;
      if (!handle && !inside) return false;
      hold({ rect: frame, side: handle?.side ?? null, from: point, armed: false });
      return true;
    },
    move: (point, press) => {
      const now = held();
      if (!now || !(now.armed || press?.moved)) return;
      session.look(setFrame(session, rectFor(now, point)), true);
    },
    up: (point, press) => {
      const now = held();
      if (!now) return;
      if (!now.armed && !press.moved) return hold({ ...now, armed: true });
      const rect = rectFor(now, point);
      hold(null);
      if (rect.every((value, index) => Math.abs(value - (now.rect[index] ?? 0)) <= 1e-6)) return session.dropDraft();
      void session.do(setFrame(session, rect));
    },
  };
}
