import { useState } from "react";

import type { Reference } from "../../api/client";
import { around } from "../../session/around";
import { sameBesidesPoints } from "../../session/lines";
import { recipeNow } from "../../session/session";
import { useDesk, useKnown, useSame, useSession } from "../../session/useSession";
import { Touch } from "../../parts/Touch";
import { DrawALine } from "../DrawALine";
import { LineEntry } from "./LineEntry";
import { TakenOut } from "./TakenOut";
import { later } from "../../parts/later";

const FoundLines = later(() => import("./FoundLines").then(({ FoundLines }) => FoundLines));
const HandPanel = later(() => import("./HandPanel").then(({ HandPanel }) => HandPanel));

/** So many lines are shown at once; with more the list turns its pages, and the instruments stay. */
const A_PAGE = 10;
const MANY = 6;

/** What the step Lines needs: the kinds, the lines with their readings, and at the foot what is corrected. */
export function LinesStep() {
  const count = useKnown((state) => recipeNow(state)?.references.length ?? 0);
  const byHand = useDesk((state) => state.byHand);
  const found = useDesk((state) => state.found !== null);
  const [turned, turn] = useState(0);
  if (byHand) return <HandPanel />;
  const first = Math.min(turned, Math.floor(Math.max(0, count - 1) / A_PAGE)) * A_PAGE;
  return (
    <>
      <DrawALine />
      <div className="row" style={{ padding: "0 16px", minHeight: 36, alignItems: "center", gap: 8, flex: "none" }}>
        <h2 style={{ flex: 1 }}>Your lines</h2>
        {count > A_PAGE && <Pages count={count} first={first} onTurn={(page) => turn(page)} />}
        {count > 0 && <BookActions />}
      </div>
      <ol className="lines" tabIndex={-1} data-many={count > MANY || undefined} style={{ flex: "1 1 auto", overflow: count ? "hidden" : "auto" }}>
        {count === 0 && (
          <li style={{ padding: found ? "0 16px 12px" : 16, color: "var(--second)" }}>
            {!found && "No lines yet. Drag along the horizon, a wall corner or a mast, or click its two ends. Longer lines are more accurate."}
            <FoundLines />
          </li>
        )}
        <Entries first={first} />
      </ol>
      <TakenOut />
    </>
  );
}

/** Which of the lines are shown. */
function Pages({ count, first, onTurn }: { count: number; first: number; onTurn: (page: number) => void }) {
  const pages = Array.from({ length: Math.ceil(count / A_PAGE) }, (_, page) => page);
  return (
    <div className="row" role="group" aria-label="Which lines are listed">
      {pages.map((page) => (
        <Touch key={page} aria-pressed={first === page * A_PAGE} onClick={() => onTurn(page)}>
          {page * A_PAGE + 1} to {Math.min(count, (page + 1) * A_PAGE)}
        </Touch>
      ))}
    </div>
  );
}

const sameLines = (a: readonly Reference[] = [], b: readonly Reference[] = []) =>
  a.length === b.length && a.every((line, at) => sameBesidesPoints(line, around(b, at)));

function Entries({ first }: { first: number }) {
  const selected = useDesk((state) => state.selected);
  const pointed = useDesk((state) => state.pointed);
  const references = useKnown(useSame((known) => recipeNow(known)?.references, sameLines));
  return references?.slice(first, first + A_PAGE).map((line, index) => (
    <LineEntry key={line.id} number={first + index + 1} line={line} chosen={selected === line.id} pointed={pointed === line.id} />
  ));
}

/** The field book as a file, and all of it cleared. */
function BookActions() {
  const session = useSession();
  const id = useKnown((state) => state.bench?.photo.id);
  return (
    <div className="row" style={{ alignItems: "center", gap: 2 }}>
      <a className="saved" href={`/api/photos/${id}/field-book.csv`} download aria-label="Download your lines as CSV">
        CSV
      </a>
      <a className="saved" href={`/api/photos/${id}/field-book.json`} download aria-label="Download your lines as JSON">
        JSON
      </a>
      <Touch className="danger" onClick={() => void session.do({ do: "clear lines" })}>
        Delete all
      </Touch>
    </div>
  );
}
