import { useMemo } from "react";
import { useShallow } from "zustand/react/shallow";

import type { AngleName } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { useProfiles } from "../../api/queries";
import { NumberField } from "../../parts/NumberField";
import { Switch } from "../../parts/Switch";
import { Touch } from "../../parts/Touch";
import { Vernier } from "../../parts/Vernier";
import { goToStep } from "../../session/desk";
import { type Known, readNow, recipeNow } from "../../session/session";
import { useKnown, useSession } from "../../session/useSession";
import { Live } from "../../stage/Live";
import { useLed } from "../useLed";

export const NAMES = { roll: "Tilt", pitch: "Verticals", yaw: "Horizontals" } as const;
/** The half-width of 95 %, in standard deviations. */
const HALF_WIDTH_95 = 1.96;

const [, PROPORTION_RANGE] = LIMITS["proportion.percent"];

/** The angles that are shown: roll always, others where lines tell them or the hand has moved them. */
const shownAngles = (known: Known): AngleName[] =>
  readNow(known)?.angles.flatMap((row) => (row.name === "roll" || row.sd !== null || row.by_hand !== 0 ? [row.name] : [])) ?? [];

/** The angles that the hand has a part in. */
const anglesByHand = (known: Known): AngleName[] =>
  shownAngles(known).filter((name) => recipeNow(known)?.correction.by_hand[name] !== 0);

/** What is corrected, pinned to the foot of the page: an instrument for each angle. */
export function TakenOut() {
  const session = useSession();
  const ready = useKnown((known) => known.seen !== null);
  const names = useKnown(useShallow(shownAngles));
  const byHand = useKnown(useShallow(anglesByHand));
  const open = useKnown((known) => readNow(known)?.lens.open ?? false);
  if (!ready) return null;
  return (
    <div data-taken-out style={{ padding: "0 16px 8px", flex: "none", borderTop: "1px solid var(--rule)" }}>
      <div className="row" style={{ alignItems: "center", gap: 8, minHeight: 30 }}>
        <h2>Correction</h2>
        <div className="beside" style={{ flex: 1 }}>
          {open ? "lens not corrected" : byHand.length ? "partly by hand" : "from your lines"}
        </div>
        {open && <CorrectLens />}
        <Touch onClick={() => session.desk.setState({ byHand: true })}>Adjust by hand</Touch>
      </div>
      {names.map((name) => (
        <Angle key={name} name={name} />
      ))}
    </div>
  );
}

/** The remedy where a ± rests on a lens that may bend: its own profile where there is one, else the step where it is corrected. */
function CorrectLens() {
  const session = useSession();
  const { data } = useProfiles(session.photo, "");
  const profile = data?.sure ? data.profiles[0] : undefined;
  return (
    <Touch title={profile?.profile?.lens} onClick={() => (profile ? void session.do({ do: "lens", source: "profile", profile }) : goToStep(session, "lens"))}>
      Correct it
    </Touch>
  );
}

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
          {(solved || !on) && (
            <Touch
              aria-label={`Switch the correction of the ${NAMES[name].toLowerCase()} ${on ? "off" : "on"}`}
              onClick={() => void session.do({ do: "switch angle", angle: name, on: !on })}
            >
              {on ? "Off" : "On"}
            </Touch>
          )}
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

/** An angle as the lines tell it. */
const solvedRow = (known: Known, name: AngleName) => readNow(known)?.angles.find((row) => row.name === name && row.sd !== null);

/** What moves with the hand, and nothing besides. */
function AngleVernier({ name, on, children }: React.PropsWithChildren<{ name: AngleName; on: boolean }>) {
  const value = useKnown((known) => takenOut(known, name));
  const words = useKnown((known) => readNow(known)?.angles.find((one) => one.name === name)?.words ?? "");
  const touched = useKnown((known) => recipeNow(known)?.correction.by_hand[name] !== 0);
  const session = useSession();
  const says = useKnown((known) => solvedRow(known, name)?.solved ?? null);
  const within = useKnown((known) => (readNow(known)?.state === "lines disagree" ? null : (solvedRow(known, name)?.sd ?? null)));
  const lead = useLed({ name, value, set: (degrees) => ({ do: "take out", angle: name, degrees }) });
  return (
    <Vernier
      name={NAMES[name]}
      words={on || touched ? words : "not corrected"}
      value={value}
      range={LIMITS[`by hand.${name}`][1]}
      says={says}
      within={within === null ? null : HALF_WIDTH_95 * within}
      onBack={touched ? () => void session.do({ do: "hand back", angle: name }) : undefined}
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
      width={3.3}
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

export function FocalLength() {
  const session = useSession();
  const free = useKnown((known) => recipeNow(known)?.correction.free.includes("focal_px") ?? false);
  return (
    <div className="row" style={{ marginTop: 6, gap: 8, alignItems: "center", justifyContent: "space-between", fontSize: "0.8125rem" }}>
      <div style={{ color: "var(--second)" }}>
        Focal length <Live of={(known) => readNow(known)?.focal.words} />
      </div>
      <Switch on={free} label="From the lines" onTurn={() => void session.do({ do: "focal length", free: !free })} />
    </div>
  );
}
