import { memo, useEffect } from "react";

import type { LineRow, Reference } from "../../api/client";
import { rowOf } from "../../session/lines";
import type { Known } from "../../session/session";
import { useSession } from "../../session/useSession";
import { KIND_NAMES, kindSign, paperColour } from "../../stage/layers/signs";
import { useLive } from "../../stage/Live";

interface Props {
  number: number;
  line: Reference;
  chosen: boolean;
  pointed: boolean;
}

const disagrees = ({ verdict }: LineRow) => verdict === "disagrees" || verdict === "receding?";

/** What is said of a line now. */
function readings(known: Known, id: string) {
  const row = rowOf(known, id);
  return {
    taken: row?.brief,
    verdict: row?.verdict_words,
    agrees: row?.verdict === "agrees",
    bad: row !== undefined && disagrees(row),
  };
}

/**
 * One of the lines that were drawn, with its readings; they are written in place, so that any number of lines follows the
 * hand.
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
      onPointerEnter={() => desk.setState({ pointed: line.id })}
      onPointerLeave={() => desk.setState({ pointed: null })}
    >
      <button type="button" className="entry-row" aria-pressed={chosen} onClick={() => desk.setState({ selected: chosen ? null : line.id })}>
        <span className="entry-number">{number}</span>
        <span className="entry-name" style={{ color: colour }}>
          {kindSign(line.kind)}
          {KIND_NAMES[line.kind]}
          {line.kind === "receding" && line.group ? ` ${line.group}` : ""}
        </span>
        <span className="entry-words" data-live="taken" />
        <span className="entry-verdict" data-live="verdict" />
      </button>
    </li>
  );
});

