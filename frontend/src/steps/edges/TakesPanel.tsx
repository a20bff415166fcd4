import { useEffect, useState } from "react";

import type { Recipe, Take } from "../../api/client";
import { usePreferences } from "../../session/preferences";
import { useSession } from "../../session/useSession";
import { emptyParts, seedFor } from "../../session/takes";
import { unfinished } from "../../api/queries";
import { useAskTakes, useTakes } from "../../stage/takes/useTakes";
import { Progress } from "../../parts/Progress";
import { percent } from "../../session/shares";
import { Choice, Touch } from "../../parts/Touch";
import { Aside, Columns, Heading } from "../../parts/Words";
import { Small } from "./Small";
import type { Seen } from "../../session/model";

const ALL = "everywhere";

/** The takes of the fill, for all corners or for one; a pointed one is seen, a touched one is taken. */
export function TakesPanel({ recipe, read }: { recipe: Recipe; read: Seen }) {
  const session = useSession();
  const takes = useTakes();
  const { ask } = useAskTakes();
  const showNew = usePreferences((state) => state.showNew);
  const [wanted, setPart] = useState<string | null>(null);
  const parts = takes ? emptyParts(takes) : [];
  const part = parts.some((one) => one.part === wanted) ? wanted : null;

  // A card that goes away under the pointer is not left.
  useEffect(() => () => session.desk.setState({ pointedTake: null }), [session]);

  const more = () => {
    const last = Math.max(...(takes?.takes ?? []).map(({ seed }) => seed), 0);
    void ask([last + 1, last + 2, last + 3]);
  };

  return (
    <>
      <Heading
        beside={
          parts.length > 1 && (
            <Choice aria-label="Takes for" value={part ?? ALL} onChange={(event) => setPart(event.target.value === ALL ? null : event.target.value)}>
              <option>{ALL}</option>
              {parts.map((one) => (
                <option key={one.part} value={one.part}>
                  {one.part === "all round" ? "all edges" : one.part}
                </option>
              ))}
            </Choice>
          )
        }
      >
        Takes
      </Heading>
      {takes?.notice && (
        <div role="alert" className="told" style={{ marginBottom: 8, borderColor: "var(--chakra-colors-plumb)" }}>
          {takes.notice}
        </div>
      )}
      <Columns gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label={`Takes for ${part ?? ALL}`}>
        {takes?.takes.map((take) => <Card key={take.id} take={take} part={part} recipe={recipe} />)}
      </Columns>
      {!takes && <div style={{ color: "var(--chakra-colors-second)" }}>Preparing takes…</div>}
      <Columns mt="8px" gridTemplateColumns="repeat(2, 1fr)">
        <Touch disabled={!takes || takes.takes.some(unfinished)} onClick={more}>
          More takes
        </Touch>
        <Touch aria-pressed={showNew} onClick={() => usePreferences.setState({ showNew: !showNew })}>
          Mark new pixels
        </Touch>
      </Columns>
      <Aside>
        {percent(read.frame.empty)} of the frame is filled. The exported file says so, and a mask can be downloaded.
      </Aside>
    </>
  );
}

function Card({ take, part, recipe }: { take: Take; part: string | null; recipe: Recipe }) {
  const { ask, cancel } = useAskTakes();
  const session = useSession();
  const chosen = take.parts.every((one) => (part !== null && one.part !== part) || seedFor(recipe, one.part) === take.seed);
  return (
    <TakeCard
      take={take}
      part={part}
      chosen={chosen}
      onShow={(shown) => session.desk.setState({ pointedTake: shown ? { seed: take.seed, part } : null })}
      onTake={() => void session.do({ do: "take", seed: take.seed, part })}
      onStop={() => void cancel(take)}
      onAgain={() => void ask([take.seed])}
    />
  );
}

interface CardProps {
  take: Take;
  /** The part that its small picture shows; null: the whole frame. */
  part: string | null;
  chosen: boolean;
  onShow: (shown: boolean) => void;
  onTake: () => void;
  onStop: () => void;
  onAgain: () => void;
}

/** One take: how far it is, or a small picture of it; a pointed one is seen, a touched one is taken. */
export function TakeCard({ take, part, chosen, onShow, onTake, onStop, onAgain }: CardProps) {
  const { photo } = useSession();
  const name = `Take ${take.seed}`;
  if (take.state !== "done")
    return (
      <div className="row" style={{ flexDirection: "column", minHeight: 92, paddingInline: 6, paddingBlock: 4, border: "1px dashed", borderColor: "var(--chakra-colors-edge)", borderRadius: 4, fontSize: "0.75rem", justifyContent: "space-between" }}>
        <div aria-live="polite">
          <div style={{ fontSize: "0.8125rem" }}>{name}</div>
          {take.state === "running" && take.progress > 0 ? `${take.words}, ${Math.round(take.progress * 100)}%` : take.words}
        </div>
        {take.state === "running" && <Progress name={name} share={take.progress} />}
        {unfinished(take) ? (
          <Touch px="4px" fontSize="0.8125rem" aria-label={`Cancel ${name.toLowerCase()}`} onClick={onStop}>
            Cancel
          </Touch>
        ) : (
          <Touch px="4px" fontSize="0.8125rem" aria-label={`Make ${name.toLowerCase()} again`} onClick={onAgain}>
            Try again
          </Touch>
        )}
      </div>
    );
  return (
    <Touch
      flexDirection="column"
      gap="2px"
      py="5px"
      minH="92px"
      aria-pressed={chosen}
      onPointerEnter={() => onShow(true)}
      onPointerLeave={() => onShow(false)}
      onFocus={() => onShow(true)}
      onBlur={() => onShow(false)}
      onClick={() => !chosen && onTake()}
    >
      <div style={{ height: 60, display: "flex", alignItems: "center" }}>
        <Small source={`/api/photos/${photo}/takes/${take.id}/small-${encodeURIComponent(part ?? "all")}.jpg`} height={60} />
      </div>
      <span>{name}</span>
    </Touch>
  );
}
