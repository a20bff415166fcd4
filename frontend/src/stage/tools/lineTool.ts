import { deleteLine, layKindNow, laysLines, pointAt, tellsLens } from "../../session/desk";
import type { Point } from "../../session/mesh";
import { baseNow, recipeNow, type Session } from "../../session/session";
import { arrowStep, type Bench, type Tool } from "./hands";
import { EMPTY_HAND, type Hand, hit, type Hold, letGo, moved, placeNext, type Pointing, showHand } from "./lineHand";

/** A click this near to the last point of a straight thing ends it. */
const ON_LAST = 10;
const BY_KEYS: Pointing = { by: "keys", scale: 1 };

/** How far within the photo a key puts the point that goes to a side of it, as a share of it. */
const INSET = 0.03;

const TO_SIDE: Partial<Record<string, readonly [x: number | null, y: number | null]>> = {
  Home: [INSET, null],
  End: [1 - INSET, null],
  PageUp: [null, INSET],
  PageDown: [null, 1 - INSET],
};

/** Lays lines and moves them, by dragging, by clicks, and by keys. */
export function lineTool({ session, surface, hands }: Bench): Tool {
  const hand = () => hands.getState().line;
  const hold = (line: Hand) => hands.setState({ line });
  const kind = () => layKindNow(session.desk.getState());
  const base = () => baseNow(session.known.getState());
  let onBody = false;

  /** What of the lines lies at a point. A straight thing tells the lens; where it lies, a wall may still be measured. */
  const found = (point: Point) => {
    const { selected } = session.desk.getState();
    const lensOnly = tellsLens(session.desk.getState());
    const lines = recipeNow(session.known.getState())?.references ?? [];
    const near = lines.filter((line) => (lensOnly ? line.kind === "straight" : line.kind !== "straight" || kind() === "straight" || line.id === selected));
    return hit(near.map((line) => ({ line, points: line.points.map(surface.stageOf) })), point);
  };

  const choose = (id: string | null) => {
    if (id) session.desk.setState({ selected: id });
  };

  const byKeys = (to: Point): Hand => ({ doing: "laying", placed: hands.getState().placed, to, armed: true });

  const leaveKeys = () => hands.setState({ cursor: null, placed: [] });

  const placeByKeys = () => {
    const { cursor, placed } = hands.getState();
    const recipe = base();
    const { mesh, size } = surface.scene.getState();
    if (!mesh || !recipe) return;
    if (!cursor) return hands.setState({ cursor: surface.photoOf([size.width / 2, size.height / 2]) });
    const last = placed[placed.length - 1];
    const next = placeNext(kind(), placed, cursor, last !== undefined && last[0] === cursor[0] && last[1] === cursor[1]);
    if (!next.whole) return hands.setState({ placed: next.points });
    const end = next.points[next.points.length - 1] ?? cursor;
    leaveKeys();
    choose(letGo(session, recipe, { doing: "laying", placed: next.points.slice(0, -1), to: end, armed: true }, kind(), BY_KEYS));
  };

  return {
    serves: () => session.desk.getState().shown !== "before" && laysLines(session.desk.getState(), recipeNow(session.known.getState())),
    cursor: "crosshair",
    holds: () => hand().doing !== "nothing" || hands.getState().cursor !== null,
    down: (point) => {
      const onPhoto = surface.photoOf(point);
      const now = hand();
      onBody = false;
      if (now.doing !== "nothing" && now.armed) hold({ ...now, to: onPhoto });
      else {
        const under = found(point);
        onBody = under?.body ?? false;
        choose(under?.hold.line.id ?? null);
        if (under) hold({ doing: "moving", hold: under.hold, from: onPhoto, to: onPhoto, armed: false });
        else hold({ doing: "laying", placed: [onPhoto], to: onPhoto, armed: false });
      }
      return true;
    },
    move: (point, press) => {
      const now = hand();
      const recipe = base();
      if (now.doing === "nothing") {
        if (!press) pointAt(session, found(point)?.hold.line.id ?? null);
      } else if (recipe && (now.armed || press?.moved)) {
        const next = { ...now, to: surface.photoOf(point) };
        hold(next);
        showHand(session, recipe, next, kind(), press?.pointing ?? { by: "mouse", scale: surface.scene.getState().view.scale });
      }
    },
    up: (point, press) => {
      const now = hand();
      const recipe = base();
      if (now.doing === "nothing" || !recipe) return;
      const here = surface.photoOf(point);
      let next: Hand = { ...now, to: here };
      // A click: an end or a number is picked up, a new line waits for its next click, a body is only selected.
      if (!now.armed && !press.moved) return hold(onBody ? EMPTY_HAND : { ...next, armed: true });
      if (now.doing === "laying" && now.armed) {
        const last = surface.stageOf(now.placed[now.placed.length - 1] ?? here);
        const placed = placeNext(kind(), now.placed, here, Math.hypot(point[0] - last[0], point[1] - last[1]) <= ON_LAST);
        if (!placed.whole) return hold({ ...now, placed: placed.points, to: here });
        next = { ...now, placed: placed.points.slice(0, -1), to: placed.points[placed.points.length - 1] ?? here };
      }
      hold(EMPTY_HAND);
      choose(letGo(session, recipe, next, kind(), press.pointing));
    },
    key: (event) => {
      const { cursor, placed } = hands.getState();
      const recipe = base();
      const to = cursor && recipe ? movedByKey(cursor, event, recipe.photo) : null;
      if (to && recipe) {
        hands.setState({ cursor: to });
        if (placed.length) showHand(session, recipe, byKeys(to), kind(), BY_KEYS);
        return true;
      }
      if (event.key !== "Enter") return false;
      placeByKeys();
      return true;
    },
  };
}

/** Where a key takes the point that is being placed: on by a step, or to a side of the photo; null for other keys. */
function movedByKey([x, y]: Point, event: React.KeyboardEvent, photo: { width: number; height: number }): Point | null {
  const side = TO_SIDE[event.key];
  if (side) return [side[0] === null ? x : side[0] * photo.width, side[1] === null ? y : side[1] * photo.height];
  const move = arrowStep(event);
  return move && [x + move[0], y + move[1]];
}

/** A key on a line that has the focus: arrows move a part of it, Delete takes it away. Whether it did anything. */
export function lineKey(session: Session, event: React.KeyboardEvent, id: string, part: Hold["part"]): boolean {
  const recipe = recipeNow(session.known.getState());
  const line = recipe?.references.find((one) => one.id === id);
  const move = arrowStep(event);
  if (!line) return false;
  if (move) {
    session.doSoon(moved({ line, part }, move[0], move[1], BY_KEYS), false);
    return true;
  }
  if (event.key !== "Delete" && event.key !== "Backspace") return false;
  deleteLine(session, id);
  return true;
}
