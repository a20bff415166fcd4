import { type RefObject, useEffect, useRef, useState } from "react";

import type { StageView } from "./useStageView";
import type { Size } from "./view";

/** The size of an element's content, as it changes. */
export function useSize(element: RefObject<HTMLElement | null>): Size {
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  useEffect(() => {
    const measure = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect;
      setSize({ width, height });
    });
    measure.observe(element.current!);
    return () => measure.disconnect();
  }, [element]);
  return size;
}

/** Tells the height of the element that gets the reference, border and all. */
export function useHeight(onHeight: (height: number) => void): RefObject<HTMLDivElement | null> {
  const element = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const measure = new ResizeObserver(() => onHeight(element.current?.offsetHeight ?? 0));
    measure.observe(element.current!);
    return () => measure.disconnect();
  }, [onHeight]);
  return element;
}

/** The wheel brings closer and farther about the pointer, with Shift it moves sideways; `width` is a pane's. */
export function useWheel(element: RefObject<HTMLElement | null>, stageView: StageView, width: number) {
  useEffect(() => {
    const surface = element.current!;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const place = surface.getBoundingClientRect();
      const x = (event.clientX - place.left) % (width || 1);
      if (event.shiftKey) stageView.pan(-event.deltaX - event.deltaY, 0);
      else stageView.zoomBy(Math.exp(-event.deltaY / 400), [x, event.clientY - place.top]);
    };
    surface.addEventListener("wheel", onWheel, { passive: false });
    return () => surface.removeEventListener("wheel", onWheel);
  });
}
