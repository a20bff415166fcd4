import type { Edges } from "../../api/client";
import { useEffect, useRef } from "react";

import { type Size, toStage, type View } from "../view/view";

type Heat = NonNullable<Edges["heat"]>;

/** Per cent of stretching at which the overlay is at its strongest. */
const STRONGEST = 30;

/** How much each part of a reshaped picture is stretched: nothing is clear, the more the darker red. */
export function HeatOverlay({ heat, view, stage }: { heat: Heat; view: View; stage: Size }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [x, y] = toStage(view, stage, [heat.area[0], heat.area[1]]);
  useEffect(() => {
    const drawing = canvas.current?.getContext("2d");
    if (!drawing) return;
    const image = drawing.createImageData(heat.columns, heat.rows);
    heat.percents.forEach((percent, at) => {
      const share = Math.min(1, percent / STRONGEST);
      image.data.set([178, 69 * (1 - share), 28, 200 * share], 4 * at);
    });
    drawing.putImageData(image, 0, 0);
  }, [heat]);
  return (
    <canvas
      ref={canvas}
      aria-hidden="true"
      data-heat
      width={heat.columns}
      height={heat.rows}
      style={{ position: "absolute", left: 0, top: 0, transform: `translate(${x}px, ${y}px)`, width: heat.area[2] * view.scale, height: heat.area[3] * view.scale, pointerEvents: "none" }}
    />
  );
}
