import { createStore } from "zustand/vanilla";

import { pointAt } from "../session/desk";
import type { Point } from "../session/mesh";
import type { Session } from "../session/session";
import { frameTool } from "./tools/frameTool";
import { arrowStep, type Bench, EMPTY_HANDS, type Hands, type Press, type Tool } from "./tools/hands";
import { lineTool } from "./tools/lineTool";
import { placeTool } from "./tools/placeTool";
import { pencilTool } from "./tools/pencilTool";
import { subjectTool } from "./tools/subjectTool";
import { activate } from "./view/active";
import { onSize, onWheel, Pinch } from "./view/gestures";
import { Surface } from "./view/surface";

const DRAG_FROM = 4;
const PAN = 60;

const onControls = (event: React.SyntheticEvent) => (event.target as Element).closest("[data-controls]") !== null;

/** The stage without its looks: what is shown, what the hand holds, and which tool has the pointer. */
export class StageModel implements Bench {
  readonly surface: Surface;
  readonly hands = createStore<Hands>(() => EMPTY_HANDS);
  private readonly tools: readonly Tool[];
  private readonly pinch: Pinch;
  private press: Press | null = null;
  /** The tool that has the pointer; null while it moves the picture. */
  private inHand: Tool | null = null;
  private box: HTMLElement | null = null;

  constructor(readonly session: Session) {
    this.surface = new Surface(session);
    this.pinch = new Pinch(this.surface.view);
    // In turn: marking and drawing are asked for, so they come before what is always there.
    this.tools = [subjectTool, pencilTool, lineTool, placeTool, frameTool].map((make) => make(this));
  }

  /** Work in an element; gives what ends it. */
  start(box: HTMLElement): () => void {
    this.box = box;
    const ends = [
      this.surface.start(),
      activate(this.surface.view),
      onSize(box, (width, height) => this.surface.resize({ width, height })),
      onWheel(box, this.surface.view),
      this.surface.view.store.subscribe(({ view }) => {
        box.dataset.scale = String(view.scale);
        box.dataset.middle = `${view.x} ${view.y}`;
      }),
      this.hands.subscribe(() => this.showCursor(box)),
      this.session.desk.subscribe(() => this.showCursor(box)),
      this.session.known.subscribe(() => this.showCursor(box)),
    ];
    return () => ends.forEach((end) => end());
  }

  get tool(): Tool | null {
    return this.tools.find((one) => one.serves()) ?? null;
  }

  down = (event: React.PointerEvent) => {
    if (!this.surface.scene.getState().mesh || onControls(event)) return;
    if (this.pinch.down(event)) return this.drop();
    this.box?.setPointerCapture(event.pointerId);
    const point = this.at(event);
    const by = event.pointerType === "touch" || event.pointerType === "pen" ? event.pointerType : "mouse";
    this.press = { at: point, moved: false, pointing: { by, scale: this.surface.scene.getState().view.scale } };
    if (event.button === 1 || event.altKey) return this.pan();
    if (event.button !== 0) return;
    const press = this.press;
    const tool = this.tools.find((one) => one.serves() && one.down(point, press));
    if (tool) this.inHand = tool;
    else this.pan();
  };

  move = (event: React.PointerEvent) => {
    if (this.pinch.move(event)) return;
    const point = this.at(event);
    const { press } = this;
    const aside = onControls(event);
    if (press && Math.hypot(point[0] - press.at[0], point[1] - press.at[1]) >= DRAG_FROM) press.moved = true;
    if (this.hands.getState().panning) return this.surface.view.pan(event.movementX, event.movementY);
    this.hands.setState({ hover: aside ? null : point });
    if (aside && !press) return pointAt(this.session, null);
    (this.inHand ?? this.tools.find((one) => one.serves() && one.holds()) ?? this.tool)?.move(point, press);
  };

  up = (event: React.PointerEvent) => {
    this.pinch.up(event);
    const { press } = this;
    this.press = null;
    if (this.hands.getState().panning) return this.hands.setState({ panning: false });
    if (!press) return;
    const tool = this.inHand;
    this.inHand = null;
    tool?.up(this.at(event), press);
  };

  cancel = (event: React.PointerEvent) => {
    this.pinch.up(event);
    this.drop();
  };

  leave = () => {
    this.hands.setState({ hover: null });
    pointAt(this.session, null);
  };

  key = (event: React.KeyboardEvent) => {
    if (event.key === "Escape" ? this.escape() : event.target === event.currentTarget && this.stageKey(event)) {
      event.preventDefault();
      event.stopPropagation();
    }
  };

  /** Let go of all that is in the hand; nothing of it is kept. */
  drop() {
    this.press = null;
    this.inHand = null;
    this.hands.setState(EMPTY_HANDS);
    this.session.dropDraft();
  }

  /** How the pointer looks says what it would do. */
  private showCursor(box: HTMLElement) {
    const { panning, line } = this.hands.getState();
    const cursor = panning ? "grabbing" : line.doing === "moving" ? "move" : (this.tool?.cursor ?? "default");
    if (box.style.cursor !== cursor) box.style.cursor = cursor;
  }

  /** Let go of what is held, else of what was going to be drawn or marked. Whether there was anything. */
  private escape(): boolean {
    const { desk } = this.session;
    const { drawing, marking } = desk.getState();
    if (this.tools.some((tool) => tool.holds()) && !(marking && !this.hands.getState().mark)) this.drop();
    else if (drawing || marking) desk.setState({ drawing: null, marking: false });
    else return false;
    return true;
  }

  private stageKey(event: React.KeyboardEvent): boolean {
    if (this.tool?.key?.(event)) return true;
    const move = arrowStep(event);
    if (!move) return false;
    this.surface.view.pan(-Math.sign(move[0]) * PAN, -Math.sign(move[1]) * PAN);
    return true;
  }

  private pan() {
    this.inHand = null;
    this.hands.setState({ panning: true });
  }

  private at(event: React.PointerEvent): Point {
    const place = this.box?.getBoundingClientRect();
    return [event.clientX - (place?.left ?? 0), event.clientY - (place?.top ?? 0)];
  }
}
