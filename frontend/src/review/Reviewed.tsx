import { useLayoutEffect, useRef, useState } from "react";

import type { ReviewExtent } from "../api/client";
import { KIND_COLOURS } from "../parts/theme";

interface Props {
  of: ReviewExtent;
  lines: ReviewExtent["lines"];
  /** Degrees clockwise. */
  turn: number;
  title: string;
}

const MARGIN = 20;

/** The picture as large as its place allows, the lines that were found over it. */
export function Reviewed({ of, lines, turn, title }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [room, setRoom] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const element = place.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setRoom({ width: element.clientWidth - 2 * MARGIN, height: element.clientHeight - 2 * MARGIN }));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const scale = size.width ? Math.min(room.width / size.width, room.height / size.height) : 0;
  const [width, height] = [size.width * scale, size.height * scale];
  return (
    <div ref={place} className="reviewed">
      <div style={{ position: "relative", width, height, overflow: "hidden", boxShadow: "0 0 0 1px var(--ink)" }}>
        <div style={{ position: "absolute", inset: 0, transform: turn ? `rotate(${turn}deg)` : undefined }} data-turn={turn}>
          <img
            src={of.picture}
            alt={`${title}, ${of.name.toLowerCase()}`}
            style={{ display: "block", width, height }}
            onLoad={({ currentTarget }) => setSize({ width: currentTarget.naturalWidth, height: currentTarget.naturalHeight })}
          />
          <svg width={width} height={height} style={{ position: "absolute", inset: 0 }} aria-hidden="true" fill="none">
            {lines.map(({ kind, ends: [x0, y0, x1, y1] }, at) => {
              const path = `M${x0 * width} ${y0 * height}L${x1 * width} ${y1 * height}`;
              return (
                <g key={at}>
                  <path d={path} stroke="#22252a" strokeWidth="5.4" />
                  <path d={path} stroke={KIND_COLOURS[kind as keyof typeof KIND_COLOURS].picture} strokeWidth="2.6" strokeDasharray="11 5" />
                </g>
              );
            })}
          </svg>
        </div>
      </div>
    </div>
  );
}
