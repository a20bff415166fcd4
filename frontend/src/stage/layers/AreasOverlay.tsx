import { Fragment, useId } from "react";

import { useSession } from "../../session/useSession";
import { type Donor, type Drawn, pathOf, type TouchUp } from "../../session/areas";
import type { Drawing } from "../../session/model";
import { arrowStep } from "../tools/hands";
import type { Point } from "../../session/mesh";
import { DARK, INK, LIGHT } from "../../parts/theme";

interface Props {
  touchUps: readonly TouchUp[];
  donors: readonly Donor[];
  selected: string | null;
  /** What is being drawn. */
  drawn: (Drawn & { drawing: Drawing }) | null;
  toStage: (point: Point) => Point;
  scale: number;
}

const COLOURS: Record<Drawing, string> = { "touch-up": LIGHT, "from here": "#7df0b2", "not from here": "#ff8a4d" };

/** Areas on the picture: touch-ups dashed, donors outlined and stippled with their words. */
export function AreasOverlay({ touchUps, donors, selected, drawn, toStage, scale }: Props) {
  const id = useId();
  const areas: (Drawn & { id: string; drawing: Drawing; words: string })[] = [
    ...donors.map((one) => ({ ...one, drawing: one.kind, words: one.kind })),
    ...touchUps.map((one) => ({ ...one, drawing: "touch-up" as const, words: one.id.slice(1) })),
  ];
  if (drawn) areas.push({ ...drawn, id: "", words: "" });
  return (
    <svg aria-hidden="true" data-areas={areas.length} style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      {(["from here", "not from here"] as const).map((kind) => (
        <pattern key={kind} id={id + kind.replaceAll(" ", "")} width={kind === "from here" ? 9 : 7} height={kind === "from here" ? 9 : 7} patternUnits="userSpaceOnUse">
          <circle cx={2.5} cy={2.5} r={1.9} fill={INK} />
          <circle cx={2.5} cy={2.5} r={1.2} fill={COLOURS[kind]} />
        </pattern>
      ))}
      {areas.map((area) => {
        const points = area.points.map(toStage);
        const closed = area.radius === null;
        const wide = 2 * (area.radius ?? 0) * scale;
        const path = pathOf(points, closed);
        const colour = COLOURS[area.drawing];
        const stippled = area.drawing === "touch-up" ? "none" : `url(#${id}${area.drawing.replaceAll(" ", "")})`;
        const [x, y] = above(points, wide / 2);
        const chosen = area.id === selected || area.id === "";
        return (
          <Fragment key={area.drawing + area.id}>
            {closed ? (
              <>
                <path d={path} fill={stippled} stroke={INK} strokeWidth={3.5} />
                <path d={path} fill="none" stroke={colour} strokeWidth={1.6} strokeDasharray={area.drawing === "touch-up" ? "6 4" : undefined} />
              </>
            ) : (
              <Brushed path={path} wide={wide} colour={colour} stippled={stippled} mask={`${id}${area.drawing.replaceAll(" ", "")}${area.id}`} />
            )}
            {area.words && (
              <text x={x} y={y - 6} textAnchor="middle" fontSize={13} fontWeight={chosen ? 800 : 600} fill={LIGHT} stroke={INK} strokeWidth={3.5} paintOrder="stroke">
                {area.words}
              </text>
            )}
          </Fragment>
        );
      })}
    </svg>
  );
}

/** What a brush has covered: its edge only, so that the picture under it is seen. */
function Brushed({ path, wide, colour, stippled, mask }: { path: string; wide: number; colour: string; stippled: string; mask: string }) {
  const round = { strokeLinecap: "round", strokeLinejoin: "round" } as const;
  const inner = Math.max(0.5, wide - 3);
  return (
    <>
      <mask id={mask} maskUnits="userSpaceOnUse" x="-100%" y="-100%" width="300%" height="300%">
        <path d={path} fill="none" stroke={LIGHT} strokeWidth={wide + 2} {...round} />
        <path d={path} fill="none" stroke={DARK} strokeWidth={inner} {...round} />
      </mask>
      {stippled !== "none" && <path d={path} fill="none" stroke={stippled} strokeWidth={inner} {...round} />}
      <g mask={`url(#${mask})`}>
        <path d={path} fill="none" stroke={INK} strokeWidth={wide + 2} {...round} />
        <path d={path} fill="none" stroke={colour} strokeWidth={wide} {...round} />
      </g>
    </>
  );
}

/** The middle of the upper edge of what holds all points. */
function above(points: readonly Point[], by: number): Point {
  const xs = points.map(([x]) => x);
  return [(Math.min(...xs) + Math.max(...xs)) / 2, Math.min(...points.map(([, y]) => y)) - by];
}

interface TargetsProps {
  touchUps: readonly TouchUp[];
  donors: readonly Donor[];
  toStage: (point: Point) => Point;
  onFocus: (id: string) => void;
}

/** Areas as focusable elements; arrow keys move them. The pointer is handled by the stage. */
export function AreaTargets({ touchUps, donors, toStage, onFocus }: TargetsProps) {
  const session = useSession();
  const areas = [
    ...touchUps.map(({ id, points }) => ({ id, points, words: `Touch-up ${id.slice(1)}` })),
    ...donors.map(({ id, points, kind }) => ({ id, points, words: kind === "from here" ? "Area to copy from" : "Area not to copy from" })),
  ];
  return (
    <>
      {areas.map(({ id, words, points }) => {
        const [x, y] = toStage(points[0] ?? [0, 0]);
        return (
          <button
            key={id}
            type="button"
            aria-label={words}
            aria-description="Arrow keys move it"
            onFocus={() => onFocus(id)}
            onKeyDown={(event) => {
              const move = arrowStep(event);
              if (!move) return;
              event.preventDefault();
              event.stopPropagation();
              const [x, y] = points[0] ?? [0, 0];
              session.doSoon({ do: "move area", area: id, to: [x + move[0], y + move[1]] }, true);
            }}
            style={{ position: "absolute", left: 0, top: 0, width: 40, height: 40, background: "none", pointerEvents: "none", transform: `translate(${x - 20}px, ${y - 20}px)` }}
          />
        );
      })}
    </>
  );
}
