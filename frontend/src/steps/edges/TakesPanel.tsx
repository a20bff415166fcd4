import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";

import type { Recipe, Take, Takes } from "../../api/client";
import { usePreferences } from "../../session/preferences";
import { useSession } from "../../session/useSession";
import { seedFor, withTake } from "../../session/recipeEdits";
import { emptyParts } from "../../session/takes";
import { unfinished } from "../../api/queries";
import { useAskTakes, useTakes } from "../../stage/takes/useTakes";
import { capital } from "../../parts/sentence";
import { Progress } from "../../parts/Progress";
import { percent } from "../../session/shares";
import { Choice, Touch } from "../../parts/Touch";
import { Aside, Columns, Heading } from "../../parts/Words";
import { Small } from "./Small";
import type { Seen } from "../../session/model";

const ALL = "all corners";

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
                <option key={one.part}>{one.part}</option>
              ))}
            </Choice>
          )
        }
      >
        Takes
      </Heading>
      {takes?.notice && (
        <Box mb="8px" role="alert" borderLeft="4px solid" borderColor="plumb" pl="10px">
          {capital(takes.notice)}.
        </Box>
      )}
      <Columns gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label={`Takes for ${part ?? ALL}`}>
        {takes?.takes.map((take) => <Card key={take.id} take={take} takes={takes} part={part} recipe={recipe} />)}
      </Columns>
      {!takes && <Box color="second">Asking for takes …</Box>}
      <Columns mt="8px" gridTemplateColumns="repeat(2, 1fr)">
        <Touch disabled={!takes || takes.takes.some(unfinished)} onClick={more}>
          More takes
        </Touch>
        <Touch aria-pressed={showNew} onClick={() => usePreferences.setState({ showNew: !showNew })}>
          Show what is new
        </Touch>
      </Columns>
      <Aside>
        {percent(read.frame.empty)} of the frame is made from the rest of the picture. The exported file says so; a mask of it can be had beside it.
      </Aside>
    </>
  );
}

function Card({ take, takes, part, recipe }: { take: Take; takes: Takes; part: string | null; recipe: Recipe }) {
  const { ask, cancel } = useAskTakes();
  const session = useSession();
  const chosen = take.parts.every((one) => (part !== null && one.part !== part) || seedFor(recipe, one.part) === take.seed);
  return (
    <TakeCard
      take={take}
      part={part}
      chosen={chosen}
      onShow={(shown) => session.desk.setState({ pointedTake: shown ? { seed: take.seed, part } : null })}
      onTake={() => void session.keep((now) => withTake(now, take, takes.made_for, part), `Take ${take.seed} in ${part ? `the ${part}` : "every corner"}`)}
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
      <Flex direction="column" minH="92px" px="6px" py="4px" border="1px dashed" borderColor="edge" borderRadius="4px" fontSize="12px" justify="space-between">
        <Box aria-live="polite">
          <Box fontSize="13px">{name}</Box>
          {take.state === "running" && take.progress > 0 ? `${take.words}, ${Math.round(take.progress * 100)} %` : take.words}
        </Box>
        {take.state === "running" && <Progress name={name} share={take.progress} />}
        {unfinished(take) ? (
          <Touch px="4px" fontSize="13px" aria-label={`Stop ${name.toLowerCase()}`} onClick={onStop}>
            Stop
          </Touch>
        ) : (
          <Touch px="4px" fontSize="13px" aria-label={`Make ${name.toLowerCase()} again`} onClick={onAgain}>
            Again
          </Touch>
        )}
      </Flex>
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
      <Box h="60px" display="flex" alignItems="center">
        <Small source={`/api/photos/${photo}/takes/${take.id}/small-${encodeURIComponent(part ?? "all")}.jpg`} height={60} />
      </Box>
      <span>{name}</span>
    </Touch>
  );
}
