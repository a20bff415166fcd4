import { useState } from "react";

import { baseNow, dropDraft, keep, keepSoon, layKindNow, laysLines, recipeNow, useBench } from "../../session/benchStore";
import { type Hand, type Hold, letGo, placeNext, showHand } from "./lineHand";
import { type Mesh, type Point, toCorrected, toPhoto } from "../../session/mesh";
import { holdsTogether, movedLine, replaced, withReferences } from "../../session/recipeEdits";
import { fromStage, type Size, toStage, type View } from "../view/view";

/** A point placed by keys under the magnifier is known to half a photo pixel. */
const KEY_SIGMA = 0.5;
const PAN = 60;

const ARROWS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** How far an arrow key moves a point, in photo pixels: 1, with Alt 0.1, with Shift 10, with Ctrl 100. */
export function arrowStep(event: { key: string; altKey: boolean; shiftKey: boolean; ctrlKey: boolean }): Point | null {
  const way = ARROWS[event.key];
  if (!way) return null;
  const size = event.altKey ? 0.1 : event.ctrlKey ? 100 : event.shiftKey ? 10 : 1;
  return [way[0] * size, way[1] * size];
}

/** Take a line away; one revision. */
export function deleteLine(id: string) {
  const recipe = recipeNow(useBench.getState());
  if (!recipe) return;
  const number = recipe.references.findIndex((one) => one.id === id) + 1;
  if (number < 1) return;
  useBench.setState({ selected: null });
  void keep((now) => withReferences(now, now.references.filter((one) => one.id !== id)), `Deleted line ${number}`);
}

interface Surface {
  mesh: Mesh | null;
  view: View;
  stage: Size;
  pan: (dx: number, dy: number) => void;
}

/** Laying and moving lines by keyboard. `cursor` is the point being placed, in photo pixels. */
export function useLineKeys({ mesh, view, stage, pan }: Surface) {
  const [cursor, setCursor] = useState<Point | null>(null);
  const [placed, setPlaced] = useState<Point[]>([]);
  const stop = () => {
    setCursor(null);
    setPlaced([]);
  };
  const laying = (points: Point[], to: Point): Hand => ({ doing: "laying", placed: points, to, armed: true });

  const moveCursor = (to: Point) => {
    const state = useBench.getState();
    const base = baseNow(state);
    setCursor(to);
    if (placed.length && base) showHand(base, laying(placed, to), layKindNow(state), KEY_SIGMA);
  };
  const onStage = (point: Point) => toStage(view, stage, toCorrected(mesh!, point));

  const place = () => {
    const state = useBench.getState();
    const base = baseNow(state);
    if (!mesh || !base) return;
    if (!cursor) {
      setCursor(toPhoto(mesh, fromStage(view, stage, [stage.width / 2, stage.height / 2])));
      return;
    }
    const last = placed[placed.length - 1];
    const next = placeNext(layKindNow(state), placed, cursor, last !== undefined && last[0] === cursor[0] && last[1] === cursor[1]);
    if (!next.whole) return setPlaced(next.points);
    stop();
    const id = letGo(base, laying(next.points.slice(0, -1), next.points[next.points.length - 1]!), layKindNow(state), KEY_SIGMA);
    if (id) useBench.setState({ selected: id });
  };

  const onStageKey = (event: React.KeyboardEvent) => {
    const state = useBench.getState();
    const move = arrowStep(event);
    if (move && cursor) {
      moveCursor([cursor[0] + move[0], cursor[1] + move[1]]);
    } else if (move) {
      pan(-Math.sign(move[0]) * PAN, -Math.sign(move[1]) * PAN);
    } else if (event.key === "Enter" && laysLines(state) && state.shown !== "before") {
      place();
    } else if (event.key === "Escape" && cursor) {
      stop();
      dropDraft();
    } else {
      return;
    }
    event.preventDefault();
    event.stopPropagation();
  };

  const onLineKey = (event: React.KeyboardEvent, id: string, part: Hold["part"]) => {
    const recipe = recipeNow(useBench.getState());
    const index = recipe?.references.findIndex((one) => one.id === id) ?? -1;
    const line = recipe?.references[index];
    const move = arrowStep(event);
    if (!recipe || !line) return;
    if (move) {
      const moved = movedLine(line, part, move[0], move[1], KEY_SIGMA);
      if (holdsTogether(moved)) keepSoon((now) => replaced(now, moved), `Moved line ${index + 1}`, false);
    } else if (event.key === "Delete" || event.key === "Backspace") {
      deleteLine(id);
    } else {
      return;
    }
    event.preventDefault();
    event.stopPropagation();
  };

  const laid: Point[] | null = mesh && cursor && placed.length && !useBench.getState().draft ? [...placed, cursor].map(onStage) : null;
  return { cursor, laid, onStageKey, onLineKey };
}
