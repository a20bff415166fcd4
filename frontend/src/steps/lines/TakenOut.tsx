import { useMemo } from "react";
import { useShallow } from "zustand/react/shallow";

import type { AngleName } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { NumberField } from "../../parts/NumberField";
import { Touch } from "../../parts/Touch";
import { Vernier } from "../../parts/Vernier";
import { type Known, readNow, recipeNow } from "../../session/session";
import { useKnown, useSession } from "../../session/useSession";
import { Live } from "../../stage/Live";
import { useLed } from "../useLed";
import { Ways } from "./Ways";

export const NAMES = { roll: "Tilt", pitch: "Verticals", yaw: "Horizontals" } as const;
const [, PROPORTION_RANGE] = LIMITS["proportion.percent"];

/** The angles that are shown: roll always, others where lines tell them or the hand has moved them. */
const shownAngles = (known: Known): AngleName[] =>
  readNow(known)?.angles.flatMap((row) => (row.name === "roll" || row.sd !== null || row.by_hand !== 0 ? [row.name] : [])) ?? [];

/** The angles that the hand has a part in. */
const anglesByHand = (known: Known): AngleName[] =>
  shownAngles(known).filter((name) => recipeNow(known)?.correction.by_hand[name] !== 0);

/** What is taken out, pinned to the foot of the field book. */
export function TakenOut() {
  const session = useSession();
  const ready = useKnown((known) => known.seen !== null);
  const names = useKnown(useShallow(shownAngles));
  const byHand = useKnown(useShallow(anglesByHand));
  const stretched = useKnown((known) => recipeNow(known)?.correction.proportion !== 1);
  if (!ready) return null;
  const warped = names.length > 1 || stretched;
  return (
    <div data-taken-out style={{ paddingInline: 16, paddingBlock: 8, flex: "0 1 auto", minHeight: 112, maxHeight: "44%", overflowY: "auto", borderTop: "1px solid", borderColor: "var(--chakra-colors-rule)" }}>
      <div className="row" style={{ justifyContent: "space-between", alignItems: "center", gap: 8 }}>
        <h2>Correction</h2>
        <div className="beside" style={{ flex: 1, textAlign: "left" }}>{byHand.length ? "partly by hand" : "from your lines"}</div>
        <Touch px="8px" fontSize="0.8125rem" onClick={() => session.desk.setState({ byHand: true })}>
          Adjust by hand
        </Touch>
      </div>
      <Ways />
      {names.map((name) => (
        <Angle key={name} name={name} />
      ))}
      {byHand.length > 0 && (
        <div className="row" style={{ gap: 6, marginTop: 6, flexWrap: "wrap" }}>
          {byHand.map((name) => (
            <Touch
              key={name}
              flex="1"
              px="6px"
              fontSize="0.8125rem"
              aria-label={`Remove the hand adjustment of the ${NAMES[name].toLowerCase()}`}
              onClick={() => void session.do({ do: "hand back", angle: name })}
            >
              Remove from {NAMES[name].toLowerCase()}
              <Live className="mono" style={{ fontSize: "0.75rem", fontWeight: 400 }} of={(known) => signed(recipeNow(known)?.correction.by_hand[name] ?? 0)} />
            </Touch>
          ))}
        </div>
      )}
      {warped && <Proportion />}
      {warped && <FocalLength />}
    </div>
  );
}

const signed = (degrees: number) => `${degrees > 0 ? "+" : "−"}${Math.abs(degrees).toFixed(2)}°`;

/** The vernier of an angle; what belongs to it stands at its end, else its amount and the switch. */
export function Angle({ name, children }: React.PropsWithChildren<{ name: AngleName }>) {
  const session = useSession();
  const on = useKnown((known) => recipeNow(known)?.correction.on[name] ?? true);
  const solved = useKnown((known) => readNow(known)?.angles.find((row) => row.name === name)?.sd != null);
  const controls = useMemo(
    () =>
      children ?? (
        <>
          {solved && on && <Amount name={name} />}
          <Touch
            px="6px"
            minW="44px"
            fontSize="0.8125rem"
            aria-pressed={!on}
            aria-label={`Switch the correction of the ${NAMES[name].toLowerCase()} off`}
            onClick={() => void session.do({ do: "switch angle", angle: name, on: !on })}
          >
            Off
          </Touch>
        </>
      ),
    [children, solved, on, name, session],
  );
  return (
    <AngleVernier name={name} on={on}>
      {controls}
    </AngleVernier>
  );
}

/**
 * How much of an angle is taken out, in degrees to a millionth. The evaluation may be a moment older than what the hand
 * has done since: that is counted in.
 */
function takenOut(known: Known, name: AngleName): number {
  const row = readNow(known)?.angles.find((one) => one.name === name);
  if (!row) return 0;
  const by_hand = recipeNow(known)?.correction.by_hand[name] ?? 0;
  return Math.round((row.taken_out + (by_hand - row.by_hand)) * 1e6) / 1e6;
}

/** What moves with the hand, and nothing besides. */
function AngleVernier({ name, on, children }: React.PropsWithChildren<{ name: AngleName; on: boolean }>) {
  const value = useKnown((known) => takenOut(known, name));
  const words = useKnown((known) => readNow(known)?.angles.find((one) => one.name === name)?.words ?? "");
  const touched = useKnown((known) => recipeNow(known)?.correction.by_hand[name] !== 0);
  const lead = useLed({ name, value, set: (degrees) => ({ do: "take out", angle: name, degrees }) });
  return (
    <Vernier
      name={NAMES[name]}
      words={on || touched ? words : "not corrected"}
      value={value}
      range={LIMITS[`by hand.${name}`][1]}
      {...lead}
    >
      {children}
    </Vernier>
  );
}

/** How much of a solved angle is taken out, 0 to 100 %. */
function Amount({ name }: { name: AngleName }) {
  const session = useSession();
  const share = useKnown((known) => recipeNow(known)?.correction.amount[name] ?? 1);
  return (
    <NumberField
      label={`How much of the ${NAMES[name].toLowerCase()} is corrected, in per cent`}
      hidden
      unit="%"
      width={3.1}
      least={0}
      most={100}
      step={5}
      value={100 * share}
      onAccept={(to) => void session.do({ do: "amount", angle: name, share: to / 100 })}
    />
  );
}

export function Proportion() {
  const session = useSession();
  const back = useMemo(
    () => (
      <Touch px="6px" minW="44px" fontSize="0.8125rem" aria-label="Reset proportions" onClick={() => void session.do({ do: "proportion", percent: 0 })}>
        Reset
      </Touch>
    ),
    [session],
  );
  return <ProportionVernier>{back}</ProportionVernier>;
}

function ProportionVernier({ children }: React.PropsWithChildren) {
  const value = useKnown((known) => ((recipeNow(known)?.correction.proportion ?? 1) - 1) * 100);
  const lead = useLed({ name: "proportion", value, set: (percent) => ({ do: "proportion", percent }) });
  return (
    <Vernier
      name="Proportions"
      words={Math.abs(value) < 0.005 ? "natural, from the focal length" : value > 0 ? "taller than natural" : "wider than natural"}
      value={value}
      range={PROPORTION_RANGE}
      unit="%"
      {...lead}
    >
      {children}
    </Vernier>
  );
}

function FocalLength() {
  const session = useSession();
  const free = useKnown((known) => recipeNow(known)?.correction.free.includes("focal_px") ?? false);
  return (
    <div className="row" style={{ marginTop: 6, gap: 6, alignItems: "center", justifyContent: "space-between", fontSize: "0.8125rem" }}>
      <div style={{ color: "var(--chakra-colors-second)" }}>
        Focal length <Live of={(known) => readNow(known)?.focal.words} />
      </div>
      <Touch
        px="8px"
        fontSize="0.8125rem"
        flex="none"
        aria-pressed={free}
        onClick={() => void session.do({ do: "focal length", free: !free })}
      >
        Work out from the lines
      </Touch>
    </div>
  );
}
