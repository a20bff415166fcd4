import { useRef } from "react";

import type { StageView } from "./useStageView";

/** Two fingers zoom and pan. Each function says whether a pinch is under way, so that nothing else reacts. */
export function usePinch(stageView: StageView) {
  const fingers = useRef(new Map<number, [number, number]>());

  const spread = () => {
    const [a, b] = [...fingers.current.values()];
    if (!a || !b) return null;
    return { distance: Math.hypot(a[0] - b[0], a[1] - b[1]), x: (a[0] + b[0]) / 2, y: (a[1] + b[1]) / 2 };
  };

  return {
    down: (event: React.PointerEvent) => {
      if (event.pointerType !== "touch") return false;
      fingers.current.set(event.pointerId, [event.clientX, event.clientY]);
      return fingers.current.size === 2;
    },
    move: (event: React.PointerEvent) => {
      if (!fingers.current.has(event.pointerId)) return false;
      const before = spread();
      fingers.current.set(event.pointerId, [event.clientX, event.clientY]);
      const after = spread();
      if (!before || !after) return false;
      const place = event.currentTarget.getBoundingClientRect();
      stageView.pan(after.x - before.x, after.y - before.y);
      stageView.zoomBy(after.distance / Math.max(1, before.distance), [after.x - place.left, after.y - place.top]);
      return true;
    },
    up: (event: React.PointerEvent) => {
      fingers.current.delete(event.pointerId);
    },
  };
}
