import type { StoreApi } from "zustand/vanilla";

import type { Drawn } from "../../session/areas";
import type { Drawing } from "../../session/model";
import type { Point } from "../../session/mesh";
import type { Session } from "../../session/session";
import type { Surface } from "../view/surface";
import type { Rect } from "./frameGeometry";
import { EMPTY_HAND, type Pointing, type Hand } from "./lineHand";

/** The frame in the hand: as it was, by which side it is held (null: as a whole), and where the hand began. */
export interface FrameHand {
  rect: Rect;
  side: Point | null;
  from: Point;
  armed: boolean;
}

/** The subject being marked: two corners of its box, in photo pixels. */
export interface Marking {
  from: Point;
  to: Point;
}

/** The subject in the hand, on its way to a line of the frame: shares of its width and height that are near enough. */
export interface Placing {
  at: Point;
  armed: boolean;
  across: number | null;
  down: number | null;
}

export type Stroke = Drawn & { drawing: Drawing; byClicks: boolean };

/** What the hand does on the stage. */
export interface Hands {
  line: Hand;
  frame: FrameHand | null;
  mark: Marking | null;
  placing: Placing | null;
  stroke: Stroke | null;
  panning: boolean;
  /** Where the pointer rests, on the stage. */
  hover: Point | null;
  /** The point that is placed by keys, in photo pixels, and those of its line that are placed already. */
  cursor: Point | null;
  placed: Point[];
}

export const EMPTY_HANDS: Hands = { line: EMPTY_HAND, frame: null, mark: null, placing: null, stroke: null, panning: false, hover: null, cursor: null, placed: [] };

/** A press of the pointer: where it began, whether it has moved since, how it points. */
export interface Press {
  at: Point;
  moved: boolean;
  pointing: Pointing;
}

/** All that a tool works with. */
export interface Bench {
  session: Session;
  surface: Surface;
  hands: StoreApi<Hands>;
}

/** One way to work on the picture by the pointer: a small machine whose state is in the hands. */
export interface Tool {
  /** Whether it is this tool's turn as the page is now. */
  serves: () => boolean;
  cursor: string;
  /** Take the pointer; false: nothing of this tool's is here. */
  down: (point: Point, press: Press) => boolean;
  move: (point: Point, press: Press | null) => void;
  up: (point: Point, press: Press) => void;
  /** Whether something is in its hand. */
  holds: () => boolean;
  /** A key while the stage has the focus; true: it was this tool's. */
  key?: (event: React.KeyboardEvent) => boolean;
}

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
