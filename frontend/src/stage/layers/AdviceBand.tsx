import { around } from "../../session/around";
import type { Kind } from "../../api/client";
import type { Rect } from "../tools/frameGeometry";
import type { Point } from "../../session/mesh";
import { pictureColour } from "./signs";

/** How finely a side of the band follows a bent picture. */
const STEPS = 12;

/** The band in photo pixels as a ring of points, so that it follows the picture wherever that is turned or bent. */
export function ringOf([x, y, width, height]: Rect): Point[] {
  const corners: Point[] = [
    [x, y],
    [x + width, y],
    [x + width, y + height],
    [x, y + height],
  ];
  return corners.flatMap(([ax, ay], at) => {
    const [bx, by] = around(corners, at + 1);
    return Array.from({ length: STEPS }, (_, step): Point => [ax + ((bx - ax) * step) / STEPS, ay + ((by - ay) * step) / STEPS]);
  });
}

/** Where one line more would say most: a soft band, its edges faded out. */
export function AdviceBand({ ring, kind }: { ring: Point[]; kind: Kind }) {
  const path = `M${ring.map((point) => point.join(" ")).join("L")}Z`;
  return (
    <svg aria-hidden="true" data-advice={kind} style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      <defs>
        <filter id="advice-soft" x="-20%" y="-20%" width="140%" height="140%">
          <feGaussianBlur stdDeviation="9" />
        </filter>
      </defs>
      <path d={path} fill={pictureColour(kind)} opacity={0.34} filter="url(#advice-soft)" />
    </svg>
  );
}
