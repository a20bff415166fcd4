import { memo, type PropsWithChildren, useRef } from "react";

import { Field, numberIn } from "./NumberField";

interface Props {
  name: string;
  words: string;
  /** What is taken out, in its unit; for roll, positive turns the picture clockwise. */
  value: number;
  range: number;
  unit?: "°" | "%";
  /** The hand takes hold of it. */
  onGrip?: () => void;
  onLead: (to: number) => void;
  onLetGo: (to: number) => void;
  onNudge: (by: number) => void;
}

const WIDTH = 112;
const FINE_PER_PX = 0.01;
const FINE_HALF = (WIDTH / 2) * FINE_PER_PX;

const TICKS = [-50, -40, -30, -20, -10, 0, 10, 20, 30, 40, 50];

const KEYS: Partial<Record<string, 1 | -1>> = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 };
const nudge = (shiftKey: boolean) => (shiftKey ? 0.1 : 0.01);

const show = (degrees: number) => Math.abs(degrees).toFixed(2);

/**
 * The control for a number: a coarse fixed scale with a moving mark, under it a fine scale that runs past a
 * fixed mark, a typed value, arrow keys (0.01, with Shift 0.1). What belongs to it stands at its end.
 */
export function Vernier({ name, words, value, range, unit = "°", onGrip, onLead, onLetGo, onNudge, children }: PropsWithChildren<Props>) {
  const spelled = unit === "°" ? "degrees" : "per cent";
  const grip = useRef<{ x: number; from: number; perPx: number; to: number } | null>(null);
  const clamp = (degrees: number) => Math.min(range, Math.max(-range, degrees));

  const start = (event: React.PointerEvent<SVGSVGElement>) => {
    const place = event.currentTarget.getBoundingClientRect();
    event.currentTarget.setPointerCapture(event.pointerId);
    const coarse = event.clientY - place.top < place.height / 2;
    grip.current = { x: event.clientX, from: value, perPx: coarse ? (2 * range) / WIDTH : FINE_PER_PX, to: value };
    onGrip?.();
  };
  const lead = (event: React.PointerEvent) => {
    const held = grip.current;
    if (!held) return;
    held.to = clamp(Math.round((held.from + (event.clientX - held.x) * held.perPx) * 100) / 100);
    onLead(held.to);
  };
  const end = () => {
    const held = grip.current;
    grip.current = null;
    if (held && held.to !== held.from) onLetGo(held.to);
  };
  const step = (by: 1 | -1, { shiftKey }: { shiftKey: boolean }) => onNudge(clamp(value + by * nudge(shiftKey)) - value);
  const take = (typed: string) => {
    const number = numberIn(typed, unit);
    if (!Number.isFinite(number) || Math.abs(number) > range) return `${name}: a number up to ${range}${unit}`;
    // A number is typed without thinking of signs: it keeps the side that is taken out now, a minus takes the other.
    const to = clamp((value < 0 ? -1 : 1) * number);
    if (Math.abs(to - value) > 1e-9) onLetGo(to);
    return null;
  };
  return (
    <div className="vernier">
      <div className="vernier-head">
        <strong>{name}</strong>
        <span>{words}</span>
      </div>
      <div className="vernier-row">
        <svg
          width={WIDTH}
          height={42}
          viewBox={`0 0 ${WIDTH} 42`}
          role="slider"
          tabIndex={0}
          aria-label={`${name} taken out`}
          aria-valuemin={-range}
          aria-valuemax={range}
          aria-valuenow={Math.round(value * 100) / 100}
          aria-valuetext={`${show(value)} ${spelled}, ${words}`}
          onPointerDown={start}
          onPointerMove={lead}
          onPointerUp={end}
          onPointerCancel={end}
          onFocus={onGrip}
          onKeyDown={(event) => {
            const by = KEYS[event.key];
            if (!by) return;
            event.preventDefault();
            event.stopPropagation();
            step(by, event);
          }}
        >
          <CoarseScale range={range} />
          {marks(value, range)}
        </svg>
        <Field label={`${name} in ${spelled}`} hidden width={3.85} shown={`${show(value)}${unit}`} take={take} onArrow={step} />
        {children}
      </div>
    </div>
  );
}

/** The fixed scale, which stays while the number moves. */
const CoarseScale = memo(function CoarseScale({ range }: { range: number }) {
  return TICKS.filter((tick) => Math.abs(tick) < range).map((tick) => {
    const x = WIDTH / 2 + (tick / range) * (WIDTH / 2);
    return (
      <g key={tick}>
        <path d={`M${x} 0v5`} className="tick" />
        {(tick === 0 || Math.abs(tick) === 30) && (
          <text x={x} y={18} fontSize={12} textAnchor="middle" className="tick-word">
            {tick < 0 ? `−${-tick}` : tick}
          </text>
        )}
      </g>
    );
  });
});

/** What moves: the mark on the coarse scale, and the fine scale past its own. */
function marks(value: number, range: number) {
  const x = WIDTH / 2 + (value / range) * (WIDTH / 2);
  const ticks: string[] = [];
  for (let tick = Math.ceil((value - FINE_HALF) * 10); tick <= (value + FINE_HALF) * 10; tick++)
    ticks.push(`M${WIDTH / 2 + (tick / 10 - value) / FINE_PER_PX} 42v${tick % 5 === 0 ? -12 : -7}`);
  return (
    <>
      <path d={`M${WIDTH / 2} 7H${x}`} className="mark" strokeWidth={3} />
      <path d={`M${x} 0v12`} className="mark" strokeWidth={4} />
      <path d={`M0 22H${WIDTH}`} className="between" />
      <path d={ticks.join("")} className="tick" />
      <path d={`M${WIDTH / 2 - 6} 23h12l-6 9z`} className="index" />
    </>
  );
}
