import type { Shapes } from "../../api/client";
import { SHARES } from "../../api/limits";
import type { Family } from "../../session/model";
import type { Rect } from "../tools/frameGeometry";
import { INK, LIGHT } from "../../parts/theme";

interface Props {
  /** The frame on the stage, in CSS px. */
  rect: Rect;
  families: readonly Family[];
  spiral: number;
  /** x of the middle between two walls, on the stage. */
  between: number | null;
  /** The box about the subject on the stage, and how many CSS px a pixel of the picture takes. */
  subject: Rect | null;
  scale: number;
  shapes: Shapes | null;
}

/** Lines in the frame to compose by. */
export function composeLines({ rect, families, spiral, between, subject, scale, shapes }: Props) {
  const [x, y, width, height] = rect;
  const across = (share: number) => `M${x + width * share} ${y}v${height}`;
  const down = (share: number) => `M${x} ${y + height * share}h${width}`;
  const paths = families.map((family) => {
    if (family in SHARES) return SHARES[family as keyof typeof SHARES].map((share) => across(share) + down(share)).join("");
    if (family === "diagonals") return diagonals(rect);
    if (family === "spiral" && shapes) {
      const turned = shapes.spiral.map(([u, v]) => [spiral & 1 ? 1 - u : u, spiral & 2 ? 1 - v : v] as const);
      return `M${turned.map(([u, v]) => `${x + u * width} ${y + v * height}`).join("L")}`;
    }
    return "";
  });
  const path = paths.join("");
  const middle = families.includes("between walls") && between !== null ? `M${between} ${y}v${height}` : "";
  const margins = families.includes("margins") && subject ? marginsOf(rect, subject, scale) : null;
  return (
    <svg data-compose={families.join(" ")} aria-hidden="true" style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      {twice(path)}
      {twice(middle, "14 5 3 5")}
      {margins && twice(margins.path)}
      {margins?.words.map(({ at, words }) => (
        <text key={words} x={at[0]} y={at[1]} textAnchor="middle" fontSize={13} fontFamily="'Atkinson Hyperlegible Mono Variable', monospace" fill={LIGHT} stroke={INK} strokeWidth={4} paintOrder="stroke">
          {words}
        </text>
      ))}
    </svg>
  );
}

function twice(path: string, dash?: string) {
  return (
    <>
      <path d={path} fill="none" stroke="rgba(20,22,26,.45)" strokeWidth={3} strokeDasharray={dash} />
      <path d={path} fill="none" stroke={LIGHT} strokeWidth={1} strokeDasharray={dash} />
    </>
  );
}

/** From every corner the line that halves its angle, as far as the frame reaches. */
export function diagonals([x, y, width, height]: Rect): string {
  const side = Math.min(width, height);
  return `M${x} ${y}l${side} ${side}M${x + width} ${y}l${-side} ${side}M${x} ${y + height}l${side} ${-side}M${x + width} ${y + height}l${-side} ${-side}`;
}

/** How far the subject is from the left and the right side of the frame, as two measured lines at its height. */
function marginsOf([x, , width]: Rect, [left, top, wide, high]: Rect, scale: number) {
  const at = top + high / 2;
  const ends: [number, number][] = [
    [x, left],
    [left + wide, x + width],
  ];
  const shown = ends.filter(([from, to]) => to > from);
  return {
    path: shown.map(([from, to]) => `M${from} ${at}H${to}M${from} ${at - 6}v12M${to} ${at - 6}v12`).join(""),
    words: shown.map(([from, to]) => ({
      at: [(from + to) / 2, at - 8] as const,
      words: `${from === x ? "left" : "right"} ${Math.round((to - from) / scale)} px`,
    })),
  };
}
