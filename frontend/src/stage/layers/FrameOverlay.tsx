import type { Rect } from "../tools/frameGeometry";
import { HANDLES, handleAt } from "../tools/frameTool";
import type { Point } from "../../session/mesh";
import type { Size } from "../view/view";
import type { Surround } from "../../session/model";
import { DARK, INK, LIGHT, SURROUNDS } from "../../parts/theme";

interface Props {
  /** The frame on the stage, in CSS px. */
  rect: Rect;
  stage: Size;
  surround: Surround;
  held: boolean;
  /** How dark what lies outside is veiled, 0 to 1. */
  veil: number;
  /** The outline of the picture on the stage, where the frame may have empty corners. */
  outline: readonly Point[] | null;
  /** What a printer that fills the sheet leaves of the frame, on the stage. */
  printed: Rect | null;
  /** Without rules and ticks: what is exported, and nothing else. */
  bare?: boolean;
  /** Tells the frames of one page apart. */
  id?: string;
}

const pathOf = ([x, y, width, height]: Rect) => `M${x} ${y}h${width}v${height}h${-width}z`;

/**
 * What lies outside the frame is veiled; the frame is a thin double rule with small cross-ticks. Empty area inside is
 * hatched in dark and light; what a printer cuts off lies beyond a dashed line.
 */
export function frameOverlay({ rect, stage, surround, held, veil, outline, printed, bare = false, id = "" }: Props) {
  const inside = pathOf(rect);
  const cross = (point: Point) => `M${point[0] - 8} ${point[1]}h16M${point[0]} ${point[1] - 8}v16`;
  const ticks = HANDLES.filter(({ side }) => held || (side[0] !== 0 && side[1] !== 0))
    .map(({ side }) => cross(handleAt(rect, side)))
    .join("");
  return (
    <svg aria-hidden="true" style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      {outline && (
        <g data-hatched>
          <pattern id={`hatch${id}`} width={12} height={12} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <path d="M0 0h6v12H0z" fill="#ececec" />
            <path d="M6 0h6v12H6z" fill="#555555" />
          </pattern>
          <mask id={`empty${id}`}>
            <path d={inside} fill={LIGHT} />
            <path d={`M${outline.map((point) => point.join(" ")).join("L")}Z`} fill={DARK} />
          </mask>
          <path d={inside} fill={`url(#hatch${id})`} mask={`url(#empty${id})`} />
        </g>
      )}
      <path d={`M0 0H${stage.width}V${stage.height}H0Z${inside}`} fillRule="evenodd" fill={SURROUNDS[surround]} opacity={veil} />
      {printed && (
        <g data-printed fill="none">
          <path d={inside + pathOf(printed)} fillRule="evenodd" fill={SURROUNDS[surround]} opacity={0.35} />
          <path d={pathOf(printed)} stroke={INK} strokeWidth={3} />
          <path d={pathOf(printed)} stroke={LIGHT} strokeWidth={1.4} strokeDasharray="7 5" />
        </g>
      )}
      {!bare && (
        <g fill="none">
          <path d={inside} stroke={INK} strokeWidth={4} />
          <path d={inside} stroke={LIGHT} strokeWidth={1.4} />
          <path d={ticks} stroke={INK} strokeWidth={5} />
          <path d={ticks} stroke={LIGHT} strokeWidth={2.4} />
        </g>
      )}
    </svg>
  );
}
