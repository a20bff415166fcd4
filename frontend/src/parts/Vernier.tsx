import { memo, type PropsWithChildren, useRef } from "react";

import { Field, numberIn } from "./NumberField";

interface Props {
  name: string;
  words: string;
  /** What is corrected, in its unit; for the tilt, positive turns the picture clockwise. */
  value: number;
  range: number;
  unit?: "°" | "%";
  /** What the lines say, and within how much they are sure of it. */
  says?: number | null;
  within?: number | null;
  /** The hand takes hold of it. */
  onGrip?: () => void;
  onLead: (to: number) => void;
  onLetGo: (to: number) => void;
  onNudge: (by: number) => void;
  /** Back to what the lines say. */
  onBack?: () => void;
}

const WIDTH = 320;
const HEIGHT = 68;
const LINE = 28;
const MARGIN = 16;
const MIDDLE = WIDTH / 2;
const COARSE_PER_PX = 0.1;
const FINE_PER_PX = 0.01;
/** The fine scale shows so much on either side of where the number stands. */
const FINE_HALF = 0.6;
const FINE_PX = (MIDDLE - MARGIN) / FINE_HALF;

const KEYS: Partial<Record<string, 1 | -1>> = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 };
const nudge = (shiftKey: boolean) => (shiftKey ? 0.1 : 0.01);

const show = (degrees: number) => Math.abs(degrees).toFixed(2);

/**
 * The instrument for a number: a coarse scale that stands, with a mark that walks along it; under it a fine scale that
 * walks past a hairline. What the lines say is a diamond on the fine scale, their ± a band about it. Drag either scale,
 * type, turn the wheel, or use the arrow keys (0.01, with Shift 0.1); Backspace goes back to what the lines say.
 */
export function Vernier({ name, words, value, range, unit = "°", says = null, within = null, onGrip, onLead, onLetGo, onNudge, onBack, children }: PropsWithChildren<Props>) {
  const spelled = unit === "°" ? "degrees" : "per cent";
  const grip = useRef<{ x: number; from: number; perPx: number; to: number } | null>(null);
  const clamp = (degrees: number) => Math.min(range, Math.max(-range, degrees));

  const start = (event: React.PointerEvent<SVGSVGElement>) => {
    const place = event.currentTarget.getBoundingClientRect();
    event.currentTarget.setPointerCapture(event.pointerId);
    const coarse = event.clientY - place.top < (place.height * LINE) / HEIGHT;
    grip.current = { x: event.clientX, from: value, perPx: coarse ? COARSE_PER_PX : FINE_PER_PX, to: value };
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
    if (!Number.isFinite(number) || Math.abs(number) > range) return `${name}: enter a number up to ${range}${unit}`;
    // A number is typed without thinking of signs: it keeps the side that is corrected now, a minus takes the other.
    const to = clamp((value < 0 ? -1 : 1) * number);
    if (Math.abs(to - value) > 1e-9) onLetGo(to);
    return null;
  };
  return (
    <div className="instrument">
      <div className="instrument-head">
        <strong className="instrument-name">{name}</strong>
        <Field label={`${name} in ${spelled}`} hidden width={4.5} shown={`${show(value)}${unit}`} take={take} onArrow={step} />
        <span className="instrument-words" title={words}>
          {words}
        </span>
        {children}
      </div>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="slider"
        tabIndex={0}
        aria-label={`${name} corrected`}
        aria-valuemin={-range}
        aria-valuemax={range}
        aria-valuenow={Math.round(value * 100) / 100}
        aria-valuetext={`${show(value)} ${spelled}, ${words}`}
        onPointerDown={start}
        onPointerMove={lead}
        onPointerUp={end}
        onPointerCancel={end}
        onFocus={onGrip}
        onWheel={(event) => step(event.deltaY < 0 ? 1 : -1, event)}
        onKeyDown={(event) => {
          const by = KEYS[event.key];
          const back = event.key === "Backspace" && onBack;
          if (!by && !back) return;
          event.preventDefault();
          event.stopPropagation();
          if (by) step(by, event);
          else onBack?.();
        }}
      >
        {within !== null && says !== null && band(says - value, within)}
        <CoarseScale range={range} />
        {marks(value, range)}
        {says !== null && diamond(says, value, onBack)}
      </svg>
    </div>
  );
}

const coarseX = (at: number, range: number) => MIDDLE + (at / range) * (MIDDLE - MARGIN);

/** The scale that stands: every 5, longer and with its figure every 15 or 20. */
const CoarseScale = memo(function CoarseScale({ range }: { range: number }) {
  const figured = range <= 45 ? (range <= 30 ? 10 : 15) : 20;
  const ticks = [];
  for (let at = -Math.floor(range / 5) * 5; at <= range; at += 5) ticks.push(at);
  const plain = ticks.filter((at) => at % figured).map((at) => `M${coarseX(at, range)} ${LINE}v-5`);
  const long = ticks.filter((at) => at % figured === 0);
  return (
    <>
      <path className="tick" d={plain.join("")} />
      <path className="tick" strokeWidth={1.5} d={long.map((at) => `M${coarseX(at, range)} ${LINE}v-9`).join("")} />
      {long.map((at) => (
        <text key={at} x={coarseX(at, range)} y={14}>
          {Math.abs(at)}
        </text>
      ))}
    </>
  );
});

/** What walks: the index on the coarse scale, and the fine scale under its hairline. */
function marks(value: number, range: number) {
  const x = coarseX(Math.min(range, Math.max(-range, value)), range);
  const [short, middle, long, figures] = [[] as string[], [] as string[], [] as string[], [] as number[]];
  for (let at = Math.ceil((value - FINE_HALF - 0.06) * 50); at <= (value + FINE_HALF + 0.06) * 50; at++) {
    const place = (MIDDLE + (at / 50 - value) * FINE_PX).toFixed(2);
    // A figure that the box would cut is left out.
    if (at % 10 === 0 && Math.abs(at / 50 - value) * FINE_PX < MIDDLE - 14) figures.push(at / 50);
    (at % 10 === 0 ? long : at % 5 === 0 ? middle : short).push(`M${place} ${LINE}v${at % 10 === 0 ? 12 : at % 5 === 0 ? 9 : 5}`);
  }
  return (
    <>
      <path className="tick" d={short.join("")} />
      <path className="tick" strokeWidth={1.2} d={middle.join("")} />
      <path className="tick" strokeWidth={1.5} d={long.join("")} />
      {figures.map((at) => (
        <text key={at.toFixed(1)} x={MIDDLE + (at - value) * FINE_PX} y={55}>
          {Math.abs(at).toFixed(1)}
        </text>
      ))}
      <path className="line" d={`M0 ${LINE}H${WIDTH}M${MIDDLE} ${LINE}V${LINE + 15}`} />
      <path className="index" d={`M${MIDDLE - 5} ${HEIGHT - 1}h10l-5 -9z`} />
      <path className="index" d={`M${x - 6.5} ${LINE - 11}h13l-6.5 11z`} />
    </>
  );
}

/** Within how much the lines are sure: a band on the fine scale about what they say. */
function band(off: number, within: number) {
  const [from, to] = [off - within, off + within].map((at) => Math.min(WIDTH, Math.max(0, MIDDLE + at * FINE_PX)));
  if (from === undefined || to === undefined || to <= from) return null;
  return (
    <>
      <rect className="band" x={from} y={LINE} width={to - from} height={HEIGHT - LINE - 1} />
      <path className="band-edge" d={`M${from} ${LINE}V${HEIGHT}M${to} ${LINE}V${HEIGHT}`} />
    </>
  );
}

/** What the lines say: a diamond; off the scale it waits at that end with its figure. */
function diamond(says: number, value: number, onBack: (() => void) | undefined) {
  const exact = MIDDLE + (says - value) * FINE_PX;
  const x = Math.min(WIDTH - 11, Math.max(11, exact));
  const off = x !== exact;
  return (
    <>
      {off && (
        <text x={x + (exact < x ? 34 : -34)} y={47} style={{ paintOrder: "stroke", stroke: "var(--touch)", strokeWidth: 5 }}>
          {show(says)}
        </text>
      )}
      <path className="says" d={`M${x} ${LINE + 3}l6 7l-6 7l-6 -7z`} onPointerDown={onBack && ((event) => event.stopPropagation())} onClick={onBack}>
        <title>As the lines say</title>
      </path>
    </>
  );
}
