import type { StageView } from "./stageView";

/** The wheel brings closer and farther about the pointer, with Shift it moves sideways; gives what takes it off. */
export function onWheel(surface: HTMLElement, view: StageView): () => void {
  const turn = (event: WheelEvent) => {
    event.preventDefault();
    const place = surface.getBoundingClientRect();
    // Side by side, a stage is as wide as one of the two.
    const x = (event.clientX - place.left) % (view.store.getState().size.width || 1);
    if (event.shiftKey) view.pan(-event.deltaX - event.deltaY, 0);
    else view.zoomBy(Math.exp(-event.deltaY / 400), [x, event.clientY - place.top]);
  };
  surface.addEventListener("wheel", turn, { passive: false });
  return () => surface.removeEventListener("wheel", turn);
}

/** Hears the size of an element's content as it changes; gives what takes it off. */
export function onSize(element: HTMLElement, heard: (width: number, height: number) => void): () => void {
  const measure = new ResizeObserver(() => heard(element.clientWidth, element.clientHeight));
  measure.observe(element);
  return () => measure.disconnect();
}

/** Two fingers zoom and pan. Each function says whether a pinch is under way, so that nothing else reacts. */
export class Pinch {
  private readonly fingers = new Map<number, [number, number]>();

  constructor(private readonly view: StageView) {}

  down(event: React.PointerEvent): boolean {
    if (event.pointerType !== "touch") return false;
    this.fingers.set(event.pointerId, [event.clientX, event.clientY]);
    return this.fingers.size === 2;
  }

  move(event: React.PointerEvent): boolean {
    if (!this.fingers.has(event.pointerId)) return false;
    const before = this.spread();
    this.fingers.set(event.pointerId, [event.clientX, event.clientY]);
    const after = this.spread();
    if (!before || !after) return false;
    const place = event.currentTarget.getBoundingClientRect();
    this.view.pan(after.x - before.x, after.y - before.y);
    this.view.zoomBy(after.distance / Math.max(1, before.distance), [after.x - place.left, after.y - place.top]);
    return true;
  }

  up(event: React.PointerEvent) {
    this.fingers.delete(event.pointerId);
  }

  private spread() {
    const [a, b] = [...this.fingers.values()];
    if (!a || !b) return null;
    return { distance: Math.hypot(a[0] - b[0], a[1] - b[1]), x: (a[0] + b[0]) / 2, y: (a[1] + b[1]) / 2 };
  }
}
