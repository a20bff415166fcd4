import type { Rect } from "./frameGeometry";
import type { Point } from "./mesh";
import type { Size } from "./view";
import type { Surround } from "./benchStore";
import { SURROUNDS } from "../theme";

/** Corners and sides by which the frame is resized: which way each lies from the middle. */
export const HANDLES: readonly { name: string; side: Point }[] = [
  { name: "top left corner", side: [-1, -1] },
  { name: "top side", side: [0, -1] },
  { name: "top right corner", side: [1, -1] },
  { name: "right side", side: [1, 0] },
  { name: "bottom right corner", side: [1, 1] },
  { name: "bottom side", side: [0, 1] },
  { name: "bottom left corner", side: [-1, 1] },
  { name: "left side", side: [-1, 0] },
];

export const handleAt = ([x, y, width, height]: Rect, [sx, sy]: Point): Point => [
  x + (width * (1 + sx)) / 2,
  y + (height * (1 + sy)) / 2,
];

interface Props {
  /** The frame on the stage, in CSS px. */
  rect: Rect;
  stage: Size;
  surround: Surround;
  held: boolean;
  thirds: boolean;
}

/** What lies outside the frame is veiled; the frame is a thin double rule with small cross-ticks. */
export function FrameOverlay({ rect, stage, surround, held, thirds }: Props) {
  const [x, y, width, height] = rect;
  const inside = `M${x} ${y}h${width}v${height}h${-width}z`;
  const cross = (point: Point) => `M${point[0] - 8} ${point[1]}h16M${point[0]} ${point[1] - 8}v16`;
  const ticks = HANDLES.filter(({ side }) => held || (side[0] !== 0 && side[1] !== 0))
    .map(({ side }) => cross(handleAt(rect, side)))
    .join("");
  return (
    <svg aria-hidden="true" style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      <path d={`M0 0H${stage.width}V${stage.height}H0Z${inside}`} fillRule="evenodd" fill={SURROUNDS[surround]} opacity={0.62} />
      {thirds &&
        [1, 2].map((share) => (
          <g key={share} fill="none">
            {[3, 1].map((wide) => (
              <path
                key={wide}
                stroke={wide === 3 ? "rgba(20,22,26,.45)" : "#ffffff"}
                strokeWidth={wide}
                d={`M${x + (width * share) / 3} ${y}v${height}M${x} ${y + (height * share) / 3}h${width}`}
              />
            ))}
          </g>
        ))}
      <path d={inside} fill="none" stroke="#22252a" strokeWidth={4} />
      <path d={inside} fill="none" stroke="#ffffff" strokeWidth={1.4} />
      <path d={ticks} fill="none" stroke="#22252a" strokeWidth={5} />
      <path d={ticks} fill="none" stroke="#ffffff" strokeWidth={2.4} />
    </svg>
  );
}
