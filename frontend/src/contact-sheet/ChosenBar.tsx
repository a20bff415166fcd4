import { useQuery, useQueryClient } from "@tanstack/react-query";

import { api, type Counted, type Reach } from "../api/client";
import { said } from "../parts/figures";
import { Choice, Touch } from "../parts/Touch";
import { choose, chooseAll, chooseNone, openPanel, useChosen } from "./chosen";
import { useTaking } from "./taking";
import { begin, complain } from "./working";

const REACHES: Record<NonNullable<Reach>, string> = { suggested: "as suggested", tilt: "tilt only", walls: "verticals too", "square-on": "square-on" };
const LEASTS = [
  { least: 0.97, words: "very sure (97%)" },
  { least: 0.9, words: "sure (90%)" },
  { least: 0.75, words: "75%" },
  { least: 0.5, words: "likely (50%)" },
];

/** What taking the proposals of the chosen photos would do, counted before. */
export function useCounted(): Counted | undefined {
  const numbers = useChosen((state) => state.numbers);
  const { reach, least } = useTaking();
  return useQuery({
    queryKey: ["photos", "count take", [...numbers], reach, least],
    queryFn: () => api.countTake([...numbers], reach, least),
    enabled: numbers.size > 0,
    placeholderData: (before) => before,
  }).data;
}

/** What can be done with the photos that are chosen. */
export function ChosenBar({ total, onRemove }: { total: number; onRemove: () => void }) {
  const queries = useQueryClient();
  const numbers = useChosen((state) => state.numbers);
  const panel = useChosen((state) => state.panel);
  const { reach, least } = useTaking();
  const count = numbers.size;
  if (!count) return null;
  const act = (name: typeof panel, words: string) => (
    <Touch className="boxed" aria-expanded={panel === name} onClick={() => openPanel(name)}>
      {words}
    </Touch>
  );
  return (
    <section className="chosen-bar" aria-label="Chosen photos">
      <span>
        <strong>{said(count)} chosen</strong>
      </span>
      <Touch onClick={() => void chooseAll().catch(complain)}>All {said(total)}</Touch>
      <Touch onClick={chooseNone}>None</Touch>
      <span className="bar-rule" />
      <label className="row" style={{ gap: 6, alignItems: "center" }}>
        <span className="beside">Take</span>
        <Choice aria-label="How far proposals are taken" value={reach} onChange={({ target }) => useTaking.setState({ reach: target.value as Reach })}>
          {Object.entries(REACHES).map(([name, words]) => (
            <option key={name} value={name}>
              {words}
            </option>
          ))}
        </Choice>
        <Choice aria-label="How sure proposals have to be" value={least} onChange={({ target }) => useTaking.setState({ least: Number(target.value) })}>
          {LEASTS.map(({ least, words }) => (
            <option key={least} value={least}>
              {words}
            </option>
          ))}
        </Choice>
      </label>
      <Touch className="boxed" onClick={() => void begin(queries, () => api.lookAgain([...numbers]))}>
        Look again
      </Touch>
      {act("carry", "Carry over…")}
      
      {act("series", "Series…")}
      {act("title", "Titles…")}
      {act("group", "Group…")}
      <span style={{ flex: 1 }} />
      {act("export", `Export ${said(count)}…`)}
      <Touch className="danger" onClick={onRemove}>
        Remove {said(count)}
      </Touch>
    </section>
  );
}

/** Of the photos that are chosen, none any more that are gone. */
export const forget = (gone: ReadonlySet<number>) => choose([...useChosen.getState().numbers].filter((one) => !gone.has(one)));
