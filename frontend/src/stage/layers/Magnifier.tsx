import type { Point } from "../../session/mesh";
import { tileAddress } from "../draw/TileGrid";
import type { Size } from "../view/view";
import { INK } from "../../parts/theme";

const TILE = 256;
const WIDTH = 156;
const HEIGHT = 112;
const TIMES = 4;
const AWAY = 34;

interface Props {
  photoId: number;
  map: string;
  /** The point in corrected pixels, and where it lies on the stage. */
  at: Point;
  onStage: Point;
  /** The same point on the photo, for the reading. */
  onPhoto: Point;
  stage: Size;
  colour: string;
}

/** The point that is being placed at 400 % with its pixel cross, beside the hand and never under it. */
export function magnifier({ photoId, map, at, onStage, onPhoto, stage, colour }: Props) {
  const left = onStage[0] + AWAY + WIDTH < stage.width ? onStage[0] + AWAY : onStage[0] - AWAY - WIDTH;
  const above = onStage[1] - AWAY - HEIGHT - 22;
  const top = above > 4 ? above : onStage[1] + AWAY;
  const [halfX, halfY] = [WIDTH / 2 / TIMES, HEIGHT / 2 / TIMES];
  const cells: Point[] = [];
  for (let row = Math.floor((at[1] - halfY) / TILE); row <= Math.floor((at[1] + halfY) / TILE); row++)
    for (let column = Math.floor((at[0] - halfX) / TILE); column <= Math.floor((at[0] + halfX) / TILE); column++)
      cells.push([column, row]);
  return (
    <div
      data-magnifier
      aria-hidden="true"
      style={{
        position: "absolute",
        left: 0,
        top: 0,
        transform: `translate(${Math.round(left)}px, ${Math.round(top)}px)`,
        width: WIDTH,
        border: `2px solid ${INK}`,
        borderRadius: 4,
        background: INK,
        overflow: "hidden",
        pointerEvents: "none",
      }}
    >
      <div style={{ position: "relative", height: HEIGHT, overflow: "hidden", background: "#6b6b6b" }}>
        {cells.map(([column, row]) => (
          <img
            key={`${map} ${column} ${row}`}
            src={tileAddress(photoId, map, column, row)}
            alt=""
            style={{
              position: "absolute",
              width: TILE * TIMES,
              height: TILE * TIMES,
              maxWidth: "none",
              left: (column * TILE - at[0]) * TIMES + WIDTH / 2,
              top: (row * TILE - at[1]) * TIMES + HEIGHT / 2,
              imageRendering: "pixelated",
            }}
          />
        ))}
        <svg width={WIDTH} height={HEIGHT} style={{ position: "absolute", inset: 0 }}>
          {cross(INK, 3)}
          {cross(colour, 1)}
        </svg>
      </div>
      <div style={{ color: "#fff", fontSize: 12, lineHeight: "22px", textAlign: "center", fontFamily: "'Atkinson Hyperlegible Mono Variable', monospace" }}>
        x {onPhoto[0].toFixed(1)} y {onPhoto[1].toFixed(1)}
      </div>
    </div>
  );
}

function cross(stroke: string, width: number) {
  const [x, y] = [WIDTH / 2, HEIGHT / 2];
  return (
    <path
      d={`M0 ${y}H${x - TIMES}M${x + TIMES} ${y}H${WIDTH}M${x} 0V${y - TIMES}M${x} ${y + TIMES}V${HEIGHT}M${x - TIMES} ${y - TIMES}h${2 * TIMES}v${2 * TIMES}h${-2 * TIMES}z`}
      stroke={stroke}
      strokeWidth={width}
      fill="none"
    />
  );
}
