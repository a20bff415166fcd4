import type { Recipe, Take } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { patchName, type TouchUp } from "../../session/areas";
import { useDesk, useSession } from "../../session/useSession";
import { unfinished } from "../../api/queries";
import type { KnownTakes } from "../../session/touchUps";
import { isMade, useAskTouchTakes, useTouchTakes } from "../../stage/takes/useTouchUps";
import { NumberField } from "../../parts/NumberField";
import { Touch } from "../../parts/Touch";
import { Aside, Columns, Heading } from "../../parts/Words";
import { HintField } from "./HintField";
import { PencilPanel } from "./PencilPanel";
import { TakeCard } from "./TakesPanel";
import type { Seen } from "../../session/model";

/** Areas that are filled like corners: drawn on the picture, listed here, each with its takes. */
export function TouchUpPage({ recipe, read }: { recipe: Recipe; read: Seen }) {
  const { touch_ups: all } = recipe.edges;
  const area = useDesk((state) => state.area);
  const known = useTouchTakes();
  const chosen = all.some(({ id }) => id === area) ? area : null;
  return (
    <>
      <Heading first beside={all.length ? `${all.filter(({ active }) => active).length} of ${all.length} used` : "none"}>
        Touch up
      </Heading>
      <PencilPanel recipe={recipe} feathered />
      <Aside>Brush over what you want to remove, or outline it. It is filled from its surroundings.</Aside>
      {all.map((one) => (
        <Item key={one.id} one={one} known={known} open={one.id === chosen} recipe={recipe} read={read} />
      ))}
    </>
  );
}

function Item({ one, known, open, recipe, read }: { one: TouchUp; known: KnownTakes; open: boolean; recipe: Recipe; read: Seen }) {
  const session = useSession();
  const number = one.id.slice(1);
  const name = `Touch-up ${number}`;
  const key = read.touch_ups[one.id];
  const found = known[one.id];
  const takes = found?.made_for === key ? (found?.takes ?? []) : [];
  const made = isMade(recipe, one, key, takes);
  const failed = takes.find(({ seed, state }) => seed === one.seed && state === "failed");
  const state = !one.active ? "Hidden" : made ? "Done" : failed ? "Failed" : "Working…";
  const change = (changes: Partial<Pick<TouchUp, "active" | "amount" | "feather">>) => void session.do({ do: "touch-up", area: one.id, ...changes });
  return (
    <div data-touch-up={one.id} data-state={state} style={{ marginTop: 8, paddingTop: 8, borderTop: "1px solid", borderColor: "var(--chakra-colors-rule)" }}>
      <div className="row" style={{ alignItems: "center", gap: 6 }}>
        <Touch flex="1" justifyContent="space-between" aria-expanded={open} aria-pressed={open} onClick={() => session.desk.setState({ area: open ? null : one.id })}>
          <span>{name}</span>
          <span style={{ fontWeight: 400, fontSize: "0.8125rem", color: "var(--chakra-colors-second)" }}>
            {state}
          </span>
        </Touch>
        <Touch px="8px" fontSize="0.8125rem" aria-label={`${one.active ? "Hide" : "Show"} ${name.toLowerCase()}`} onClick={() => change({ active: !one.active })}>
          {one.active ? "Hide" : "Show"}
        </Touch>
        <Touch px="8px" fontSize="0.8125rem" aria-label={`Remove ${name.toLowerCase()}`} onClick={() => void session.do({ do: "remove area", area: one.id })}>
          Remove
        </Touch>
      </div>
      {failed && one.active && !made && (
        <div role="alert" className="told" style={{ marginTop: 6, borderColor: "var(--chakra-colors-plumb)" }}>
          {failed.words}
        </div>
      )}
      {open && one.active && (
        <>
          <NumberField label="Amount" unit="%" least={0} most={100} value={100 * one.amount} onAccept={(amount) => change({ amount: amount / 100 })} />
          <NumberField label="Feather" unit="px" least={LIMITS["touch-up.feather"][0]} most={LIMITS["touch-up.feather"][1]} value={one.feather} onAccept={(feather) => change({ feather })} />
          <HintField hint={one.hint} named={name} onKeep={(hint) => void session.do({ do: "hint", area: one.id, hint })} />
          <TakesOf one={one} takes={takes} />
        </>
      )}
    </div>
  );
}

function TakesOf({ one, takes }: { one: TouchUp; takes: Take[] }) {
  const session = useSession();
  const { ask, cancel } = useAskTouchTakes();
  const last = Math.max(one.seed, ...takes.map(({ seed }) => seed));
  const part = patchName(one.id);
  return (
    <>
      <Columns mt="8px" gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label={`Takes for touch-up ${one.id.slice(1)}`}>
        {takes.map((take) => (
          <TakeCard
            key={take.id}
            take={take}
            part={part}
            chosen={take.seed === one.seed}
            onShow={(shown) => session.desk.setState({ pointedTouch: shown ? { id: one.id, take } : null })}
            onTake={() => void session.do({ do: "touch-up take", area: one.id, seed: take.seed })}
            onStop={() => void cancel(one.id, take)}
            onAgain={() => void ask(one.id, [take.seed])}
          />
        ))}
      </Columns>
      <Touch mt="6px" w="100%" disabled={takes.some(unfinished)} onClick={() => void ask(one.id, [...new Set([one.seed, last + 1, last + 2])])}>
        More takes
      </Touch>
    </>
  );
}
