import type { Point } from "../../session/mesh";
import { wideScreen } from "./wideScreen";
import { fromStage, type Size, toStage, type View } from "../view/view";

const TILE = 256;

/** From here on the preview is no longer sharp enough. */
export const FROM_SCALE = 0.75;

export const tileAddress = (photoId: number, map: string, column: number, row: number) =>
  `/api/photos/${photoId}/tiles/${map}/${column}/${row}.jpg${wideScreen() ? "?wide" : ""}`;

interface Props {
  photoId: number;
  map: string;
  view: View;
  stage: Size;
  outline: readonly Point[];
}

/** The real pixels at 100 % and closer, rendered by the core through the map of the preview. */
export function TileGrid({ photoId, map, view, stage, outline }: Props) {
  const [left, top] = fromStage(view, stage, [0, 0]);
  const [right, bottom] = fromStage(view, stage, [stage.width, stage.height]);
  const xs = outline.map(([x]) => x);
  const ys = outline.map(([, y]) => y);
  const range = (from: number, to: number) => {
    const first = Math.floor(from / TILE);
    return Array.from({ length: Math.max(0, Math.floor(to / TILE) - first + 1) }, (_, index) => first + index);
  };
  const columns = range(Math.max(left, Math.min(...xs)), Math.min(right, Math.max(...xs)));
  const rows = range(Math.max(top, Math.min(...ys)), Math.min(bottom, Math.max(...ys)));
  const edge = outline.map((point) => toStage(view, stage, point).map((value) => `${value}px`).join(" "));
  return (
    <div aria-hidden="true" data-tiles style={{ position: "absolute", inset: 0, clipPath: `polygon(${edge.join(",")})` }}>
      {rows.flatMap((row) =>
        columns.map((column) => {
          const [x, y] = toStage(view, stage, [column * TILE, row * TILE]);
          const side = TILE * view.scale;
          return (
            <img
              key={`${map} ${column} ${row}`}
              src={tileAddress(photoId, map, column, row)}
              alt=""
              draggable={false}
              style={{
                position: "absolute",
                // Pictures on a page are no wider than what holds them, unless it is said.
                maxWidth: "none",
                width: side + 0.5,
                height: side + 0.5,
                transform: `translate(${x}px, ${y}px)`,
                imageRendering: view.scale >= 1.9 ? "pixelated" : "auto",
              }}
            />
          );
        }),
      )}
    </div>
  );
}
