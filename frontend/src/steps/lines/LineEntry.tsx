import { memo, useEffect } from "react";

import type { Reference } from "../../api/client";
import { type Known, readNow } from "../../session/session";
import { useSession } from "../../session/useSession";
import { KIND_NAMES, kindSign, paperColour } from "../../stage/layers/signs";
import { useLive } from "../../stage/Live";
import { later } from "../../parts/later";

const LineActions = later(() => import("./LineActions").then(({ LineActions }) => LineActions));

interface Props {
  number: number;
  line: Reference;
  chosen: boolean;
  pointed: boolean;
}

/** What is said of a line now. */
function readings(known: Known, id: string) {
  const row = readNow(known)?.lines.find((one) => one.id === id);
  return {
    after: row?.after,
    plus: row?.plus_minus,
    taken: row?.as_taken,
    verdict: row?.verdict_words,
    bad: row?.verdict === "disagrees" || row?.verdict === "receding?",
  };
}

/**
 * One line of the field book; the chosen one shows what can be done with it. Its readings are written in place, so that
 * any number of lines follows the hand.
 */
export const LineEntry = memo(function LineEntry({ number, line, chosen, pointed }: Props) {
  const { desk } = useSession();
  const place = useLive<HTMLLIElement>((known) => readings(known, line.id));
  useEffect(() => {
    if (chosen) place.current?.scrollIntoView?.({ block: "nearest" });
  }, [chosen, place]);
  const colour = paperColour(line.kind);
  return (
    <li
      ref={place}
      className="entry"
      data-pointed={pointed}
      data-chosen={chosen}
      style={pointed ? { boxShadow: `inset 4px 0 0 ${colour}` } : undefined}
      onPointerEnter={() => desk.setState({ pointed: line.id })}
      onPointerLeave={() => desk.setState({ pointed: null })}
    >
      <button type="button" className="entry-row" aria-expanded={chosen} onClick={() => desk.setState({ selected: chosen ? null : line.id })}>
        <span className="entry-line">
          <span className="entry-name" style={{ color: colour }}>
            {kindSign(line.kind)}
            {number} {KIND_NAMES[line.kind]}
            {line.kind === "receding" && line.group ? ` ${line.group}` : ""}
          </span>
          <span className="mono">
            <span data-live="after" /> <small data-live="plus" />
          </span>
        </span>
        <span className="entry-line entry-words">
          <span data-live="taken" /> <span data-live="verdict" />
        </span>
      </button>
      {chosen && <LineActions number={number} line={line} />}
    </li>
  );
});

