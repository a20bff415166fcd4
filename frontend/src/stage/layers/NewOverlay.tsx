import { useId } from "react";

import type { Rect } from "../tools/frameGeometry";
import type { Point } from "../../session/mesh";
import { INDEX, INK } from "../../parts/theme";

interface Props {
  /** The frame and the picture's outline on the stage. */
  rect: Rect;
  outline: readonly Point[];
}

/** Where the picture ends and what is new begins: dashed along the outline, inside the frame. */
export function NewOverlay({ rect: [x, y, width, height], outline }: Props) {
  const id = useId();
  const path = `M${outline.map((point) => point.join(" ")).join("L")}Z`;
  return (
    <svg aria-hidden="true" data-new style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      <clipPath id={`${id}frame`}>
        <rect x={x} y={y} width={width} height={height} />
      </clipPath>
      <g clipPath={`url(#${id}frame)`} fill="none">
        <path d={path} stroke={INK} strokeWidth={3} />
        <path d={path} stroke={INDEX} strokeWidth={1.6} strokeDasharray="7 5" />
      </g>
    </svg>
  );
}
