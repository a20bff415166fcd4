import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { memo } from "react";

import { api, type CostRow, type Recipe } from "../../api/client";
import { baseNow, type Session } from "../../session/session";
import { useKnown, useSession } from "../../session/useSession";
import { previewed } from "../../session/preview";
import { Aside } from "../../parts/Words";
import { percent } from "../../session/shares";

/** What trimming and filling cost, for each turn that the lines determine. Touching a way takes it. */
export const CostTable = memo(function CostTable() {
  // A way that is only pointed at changes nothing here.
  const recipe = useKnown(baseNow);
  return recipe && <Table recipe={recipe} />;
});

function Table({ recipe }: { recipe: Recipe }) {
  const session = useSession();
  const { data, isPlaceholderData, error } = useQuery({
    queryKey: ["costs", JSON.stringify(recipe)],
    queryFn: () => api.costs(recipe),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
  if (error) return <Aside>{error.message}</Aside>;
  if (!data) return <Aside>Calculating…</Aside>;
  const turns = [...new Set(data.map(({ turn }) => turn))];
  return (
    <div data-costs style={{ opacity: isPlaceholderData ? 0.6 : 1 }}>
      <div aria-hidden="true" className="way way-heads">
        <span>Choice</span>
        <span>Kept</span>
        <span>Empty</span>
        <span>Pixels</span>
      </div>
      {turns.map((turn) => (
        <div key={turn} role="group" aria-label={turn}>
          <div className="turn">{turn}</div>
          {data
            .filter((row) => row.turn === turn)
            .map((row) => way(session, row, isPlaceholderData))}
        </div>
      ))}
    </div>
  );
}

/** One way as an element; there are many of them, and each is only a button. */
function way(session: Session, row: CostRow, disabled: boolean) {
  const action = { do: "framing", turn: row.turn, edges: row.edges } as const;
  const lost = row.subject === false;
  return (
    <button
      key={row.edges}
      type="button"
      className="way"
      disabled={disabled}
      aria-pressed={row.chosen}
      {...previewed(session, action)}
      onClick={() => !row.chosen && void session.do(action)}
    >
      <span>
        {row.label}
        {lost && (
          <small>cuts into the subject</small>
        )}
      </span>
      <span>
        {percent(row.kept)}
        <span className="heard"> kept, </span>
      </span>
      <span>
        {percent(row.empty)}
        <span className="heard"> empty, </span>
      </span>
      <span>
        {row.width}×{row.height}
        <span className="heard"> pixels</span>
      </span>
    </button>
  );
}
