import type { Grid } from "./benchStore";
import type { Size } from "./view";

const SQUARE = 48;

/** A guide that stays with the screen, whatever the picture does under it. */
export function ScreenGrid({ grid, stage }: { grid: Grid; stage: Size }) {
  if (grid !== "squares") return null;
  const places = (length: number) =>
    Array.from({ length: Math.ceil(length / SQUARE) }, (_, index) => Math.round((length % SQUARE) / 2 + index * SQUARE) + 0.5);
  const path =
    places(stage.width).map((x) => `M${x} 0V${stage.height}`).join("") +
    places(stage.height).map((y) => `M0 ${y}H${stage.width}`).join("");
  return (
    <svg
      data-grid
      aria-hidden="true"
      style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}
    >
      <path d={path} stroke="rgba(20,22,26,.3)" strokeWidth={3} fill="none" />
      <path d={path} stroke="rgba(255,255,255,.7)" strokeWidth={1} fill="none" />
    </svg>
  );
}
