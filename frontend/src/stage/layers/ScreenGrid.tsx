import type { Grid } from "../../session/model";
import type { Size } from "../view/view";

const SQUARE = 48;

/** Into how many parts the stage is divided across and down. */
const PARTS: Partial<Record<Grid, readonly [number, number]>> = { coarse: [6, 4], fine: [24, 16] };

const places = (length: number, step: number) =>
  Array.from({ length: Math.ceil(length / step) }, (_, index) => Math.round((length % step) / 2 + index * step) + 0.5);

/** A guide that stays with the screen, whatever the picture does under it. */
export function ScreenGrid({ grid, stage }: { grid: Grid; stage: Size }) {
  const parts = PARTS[grid];
  if (!parts && grid !== "square") return null;
  const [across, down] = parts ? [stage.width / parts[0], stage.height / parts[1]] : [SQUARE, SQUARE];
  const path =
    places(stage.width, across).map((x) => `M${x} 0V${stage.height}`).join("") +
    places(stage.height, down).map((y) => `M0 ${y}H${stage.width}`).join("");
  return (
    <svg
      data-grid={grid}
      aria-hidden="true"
      style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}
    >
      <path d={path} stroke="rgba(20,22,26,.3)" strokeWidth={3} fill="none" />
      <path d={path} stroke="rgba(255,255,255,.7)" strokeWidth={1} fill="none" />
    </svg>
  );
}
