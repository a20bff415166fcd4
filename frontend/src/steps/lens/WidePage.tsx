import type { Action, Reference } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { Among } from "../../parts/Among";
import { NumberField } from "../../parts/NumberField";
import { Slide } from "../../parts/Slide";
import { Switch } from "../../parts/Switch";
import { Touch } from "../../parts/Touch";
import { readNow, recipeNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { KIND_NAMES, kindSign, paperColour } from "../../stage/layers/signs";
import { Live } from "../../stage/Live";
import { useLed } from "../useLed";
import { DrawALine } from "../DrawALine";

const [, MOST_MM] = LIMITS["looks like.mm"];
const [, FIRMEST] = LIMITS["uprights.value"];
const [LEAST_LEAN, MOST_LEAN] = LIMITS["wish.off_deg"];

/** How wide the picture looks, and what each of its lines is to become. */
export function WidePage() {
  const session = useSession();
  const view = useKnown((known) => recipeNow(known)?.view);
  const border = useKnown((known) => recipeNow(known)?.bend.border);
  const unknown = useKnown((known) => recipeNow(known)?.lens.source === "none");
  if (!view) return null;
  return (
    <>
      <h2>How wide it looks</h2>
      <div className="beside" data-wide-words>
        <Live of={(known) => readNow(known)?.wide?.words || "As taken, flat: what is near the border is stretched."} />
      </div>
      {unknown && (
        <div role="status" className="beside" style={{ marginTop: 4 }}>
          The lens is not described yet. Correct its distortion first, from straight edges or by a profile: lines are then made straight all
          along.
        </div>
      )}
      <LooksLike />
      {view.kind !== "flat" && <Uprights />}
      <div style={{ marginTop: 6 }}>
        <Switch
          on={border === "rectangle"}
          label="Keep the border a rectangle"
          onTurn={() => void session.do({ do: "border", border: border === "rectangle" ? "free" : "rectangle" })}
        />
      </div>
      <div className="beside" style={{ marginTop: 8 }}>
        No view keeps a whole facade straight and everything at its edge unstretched. The pictures below show the ways to choose from;
        single lines are made right here.
      </div>
      <Wishes />
    </>
  );
}

/** From as taken, which is flat, to round: the further, the less is stretched near the border. */
function LooksLike() {
  const own = useKnown((known) => readNow(known)?.focal.equivalent_mm ?? 0);
  const mm = useKnown((known) => {
    const view = recipeNow(known)?.view;
    return view && view.kind !== "flat" ? view.looks_like_35mm : null;
  });
  const least = Math.min(Math.max(own, LIMITS["looks like.mm"][0]), MOST_MM / 2);
  const at = mm === null ? 0 : Math.min(1, Math.max(0, (1 / least - 1 / mm) / (1 / least - 1 / MOST_MM)));
  const lead = useLed({ name: "looks like", value: at, set: (to) => ({ do: "looks like", mm: to <= 0 ? null : mmAt(to, least) }) });
  return (
    <>
      <Slide
        label="Looks like"
        words={mm === null ? "as taken, flat" : mm >= MOST_MM * 0.75 ? "round" : `${mm.toFixed(0)} mm`}
        value={at}
        onLead={lead.onLead}
        onLetGo={lead.onLetGo}
      />
      <div className="row beside" style={{ justifyContent: "space-between" }} aria-hidden="true">
        <span>flat</span>
        <span>round</span>
      </div>
    </>
  );
}

const mmAt = (at: number, least: number) => Math.round(10 / (1 / least - at * (1 / least - 1 / MOST_MM))) / 10;

/** How firmly what is upright stays so. */
function Uprights() {
  const value = useKnown((known) => recipeNow(known)?.view.uprights ?? 0);
  // Small numbers matter more.
  const lead = useLed({ name: "uprights", value: Math.sqrt(value / FIRMEST), set: (to) => ({ do: "uprights", value: Math.round(FIRMEST * to * to * 100) / 100 }) });
  return (
    <Slide
      label="Keep verticals upright"
      words={value === 0 ? "no" : value < 6 ? "softly" : value < 14 ? "firmly" : "for a facade"}
      value={Math.sqrt(value / FIRMEST)}
      onLead={lead.onLead}
      onLetGo={lead.onLetGo}
    />
  );
}

const WAYS = [
  ["", "as it comes"],
  ["straight", "straight"],
  ["level", "level"],
  ["upright", "upright"],
] as const;

const SQUARE = [
  ["", "as it comes"],
  ["straight", "straight sides"],
  ["level", "square"],
] as const;

/** The lines, and what each becomes. */
function Wishes() {
  const session = useSession();
  const lines = useKnown((known) => recipeNow(known)?.references);
  const amount = useKnown((known) => recipeNow(known)?.bend.amount ?? 1);
  const lead = useLed({ name: "carry out", value: amount, set: (to) => ({ do: "carry out", amount: to }) });
  const asked = lines?.some(({ become }) => become) ?? false;
  const several = lines?.some(({ kind }) => kind !== "witness") ?? false;
  if (!lines) return null;
  return (
    <>
      <div className="row" style={{ alignItems: "center", gap: 6, marginTop: 14 }}>
        <h2 style={{ flex: 1 }}>Lines made right</h2>
        {several && <Touch onClick={() => void session.do({ do: "wish all", on: true })}>All</Touch>}
        {asked && <Touch onClick={() => void session.do({ do: "wish all", on: false })}>Let all go</Touch>}
      </div>
      <div style={{ marginInline: -16 }}>
        <DrawALine />
      </div>
      <ul style={{ margin: 0, padding: 0, marginTop: 6 }}>
        {lines.map((line, index) => (line.kind === "witness" ? null : <Wish key={line.id} line={line} number={index + 1} />))}
      </ul>
      {asked && <Slide label="How far they are made right" words={`${Math.round(100 * amount)}%`} value={amount} onLead={lead.onLead} onLetGo={lead.onLetGo} />}
    </>
  );
}

/** A line, what it becomes, and where it cannot. */
function Wish({ line, number }: { line: Reference; number: number }) {
  const session = useSession();
  const unmet = useKnown((known) => readNow(known)?.wide?.unmet[line.id]);
  const pointed = useDesk((desk) => desk.pointed === line.id);
  const { become } = line;
  const change = (changes: Partial<NonNullable<Reference["become"]>>): Action => ({
    do: "wish",
    line: line.id,
    way: become?.way ?? "straight",
    off_deg: become?.off_deg ?? 0,
    amount: become?.amount ?? 1,
    ...changes,
  });
  const take = (way: string) => {
    const wanted = WAYS.find(([one]) => one === way)?.[0];
    void session.do(wanted ? change({ way: wanted, off_deg: 0 }) : { do: "wish", line: line.id, way: null });
  };
  return (
    <li
      className="wish"
      data-wish={line.id}
      data-pointed={pointed}
      onPointerEnter={() => session.desk.setState({ pointed: line.id })}
      onPointerLeave={() => session.desk.setState({ pointed: null })}
    >
      <div className="row">
        <span className="wish-name" style={{ color: paperColour(line.kind) }}>
          {number} {kindSign(line.kind)} {KIND_NAMES[line.kind]}
        </span>
        <Among words="" label={`What line ${number} becomes`} value={become?.way ?? ""} from={line.kind === "rectangle" ? SQUARE : WAYS} onChange={take} />
        {become && (
          <NumberField
            hidden
            label={`How far line ${number}`}
            value={100 * become.amount}
            unit="%"
            least={1}
            most={100}
            width={3}
            onAccept={(percent) => void session.do(change({ amount: percent / 100 }))}
          />
        )}
      </div>
      {become && become.way !== "straight" && <Lean way={become.way} off={become.off_deg} change={change} />}
      {unmet && (
        <div role="status" className="beside" style={{ color: "var(--danger)" }}>
          {unmet}
        </div>
      )}
    </li>
  );
}

/** A lean that is meant, dragged or typed. */
function Lean({ way, off, change }: { way: "level" | "upright"; off: number; change: (changes: { off_deg: number }) => Action }) {
  const session = useSession();
  const label = way === "level" ? "Drop to the right" : "Lean to the right";
  const to = (share: number) => change({ off_deg: Math.round(10 * (LEAST_LEAN + share * (MOST_LEAN - LEAST_LEAN))) / 10 });
  const at = (off - LEAST_LEAN) / (MOST_LEAN - LEAST_LEAN);
  const lead = useLed({ name: label, value: at, set: to });
  return (
    <Slide
      inline
      label={label}
      words={`${off}°`}
      value={at}
      onLead={lead.onLead}
      onLetGo={lead.onLetGo}
      end={
        <NumberField
          hidden
          label={`${label}, in degrees`}
          value={off}
          unit="°"
          least={LEAST_LEAN}
          most={MOST_LEAN}
          digits={1}
          step={0.1}
          width={3}
          onAccept={(off_deg) => void session.do(change({ off_deg }))}
        />
      }
    />
  );
}
