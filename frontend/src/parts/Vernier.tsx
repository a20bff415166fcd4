import { Box, Flex, Input } from "@chakra-ui/react";
import { useRef, useState } from "react";

interface Props {
  name: string;
  words: string;
  /** What is taken out, in its unit; for roll, positive turns the picture clockwise. */
  value: number;
  range: number;
  unit?: "°" | "%";
  onLead: (to: number) => void;
  onLetGo: (to: number) => void;
  onNudge: (by: number) => void;
}

const WIDTH = 112;
const FINE_PER_PX = 0.01;
const FINE_HALF = (WIDTH / 2) * FINE_PER_PX;

const TICKS = [-50, -40, -30, -20, -10, 0, 10, 20, 30, 40, 50];

const show = (degrees: number) => Math.abs(degrees).toFixed(2);

/**
 * The control for a number: a coarse fixed scale with a moving mark, under it a fine scale that runs past a
 * fixed mark, a typed value, arrow keys (0.01, with Shift 0.1). What belongs to it stands at its end.
 */
export function Vernier({ name, words, value, range, unit = "°", onLead, onLetGo, onNudge, children }: React.PropsWithChildren<Props>) {
  const spelled = unit === "°" ? "degrees" : "per cent";
  const [typed, setTyped] = useState<string | null>(null);
  const grip = useRef<{ x: number; from: number; perPx: number; to: number } | null>(null);
  const clamp = (degrees: number) => Math.min(range, Math.max(-range, degrees));

  const start = (event: React.PointerEvent<SVGSVGElement>) => {
    const place = event.currentTarget.getBoundingClientRect();
    event.currentTarget.setPointerCapture(event.pointerId);
    const coarse = event.clientY - place.top < place.height / 2;
    grip.current = { x: event.clientX, from: value, perPx: coarse ? (2 * range) / WIDTH : FINE_PER_PX, to: value };
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
  const accept = () => {
    if (typed === null) return;
    const number = Number(typed.trim().replace(",", ".").replace("−", "-").replace(/[°%]/, ""));
    setTyped(null);
    if (typed.trim() === "" || !Number.isFinite(number)) return;
    // A number is typed without thinking of signs: it keeps the side that is taken out now, a minus takes the other.
    const side = value < 0 ? -1 : 1;
    const to = clamp(side * number);
    if (Math.abs(to - value) > 1e-9) onLetGo(to);
  };
  const onKey = (event: React.KeyboardEvent) => {
    const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    onNudge(clamp(value + way * (event.shiftKey ? 0.1 : 0.01)) - value);
  };
  const coarseX = WIDTH / 2 + (value / range) * (WIDTH / 2);
  const fine: number[] = [];
  for (let tick = Math.ceil((value - FINE_HALF) * 10); tick <= (value + FINE_HALF) * 10; tick++) fine.push(tick / 10);
  return (
    <Box mt="4px">
      <Flex gap="6px" fontSize="13px" align="baseline">
        <strong>{name}</strong>
        <Box as="span" color="second" lineHeight="1.25">
          {words}
        </Box>
      </Flex>
      <Flex gap="4px" mt="1px" align="stretch">
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
          style={{ background: "#fff", borderRadius: 3, cursor: "ew-resize", touchAction: "none", boxShadow: "inset 0 0 0 1px #8a877f" }}
          onPointerDown={start}
          onPointerMove={lead}
          onPointerUp={end}
          onPointerCancel={end}
          onKeyDown={onKey}
        >
          {TICKS.filter((tick) => Math.abs(tick) < range).map((tick) => {
            const x = WIDTH / 2 + (tick / range) * (WIDTH / 2);
            return (
              <g key={tick}>
                <path d={`M${x} 0v5`} stroke="#5d6168" />
                {(tick === 0 || Math.abs(tick) === 30) && (
                  <text x={x} y={18} fontSize={12} textAnchor="middle" fill="#5d6168">
                    {tick < 0 ? `−${-tick}` : tick}
                  </text>
                )}
              </g>
            );
          })}
          <path d={`M${WIDTH / 2} 7H${coarseX}`} stroke="#22252a" strokeWidth={3} />
          <path d={`M${coarseX} 0v12`} stroke="#22252a" strokeWidth={4} />
          <path d={`M0 22H${WIDTH}`} stroke="#d6d3cb" />
          {fine.map((tick) => {
            const x = WIDTH / 2 + (tick - value) / FINE_PER_PX;
            const whole = Math.abs(tick * 10) % 5 === 0;
            return <path key={tick} d={`M${x} 42v${whole ? -12 : -7}`} stroke="#5d6168" />;
          })}
          <path d={`M${WIDTH / 2 - 6} 23h12l-6 9z`} fill="#e3b100" stroke="#22252a" />
        </svg>
        <Flex position="relative" align="center" flex="1" minW="62px">
          <Input
            aria-label={`${name} in ${spelled}`}
            h="42px"
            px="4px"
            fontSize="13px"
            bg="touch"
            borderColor="edge"
            fontFamily="mono"
            textAlign="right"
            value={typed ?? `${show(value)}${unit === "%" ? " %" : unit}`}
            onFocus={(event) => event.target.select()}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={accept}
            onKeyDown={(event) => {
              if (event.key === "Enter") event.currentTarget.blur();
              if (event.key === "Escape") setTyped(null);
              if (event.key === "ArrowUp" || event.key === "ArrowDown") {
                setTyped(null);
                onKey(event);
              }
            }}
          />
        </Flex>
        {children}
      </Flex>
    </Box>
  );
}
