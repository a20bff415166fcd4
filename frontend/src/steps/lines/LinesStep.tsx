import { memo, useState } from "react";

import type { Kind, Reference } from "../../api/client";
import { around } from "../../session/around";
import { sameBesidesPoints } from "../../session/lines";
import { recipeNow } from "../../session/session";
import { useDesk, useKnown, useSame, useSession } from "../../session/useSession";
import { kindSign } from "../../stage/layers/signs";
import { Touch } from "../../parts/Touch";
import { LineEntry } from "./LineEntry";
import { TakenOut } from "./TakenOut";
import type { LayKind } from "../../session/model";
import { later } from "../../parts/later";

const FoundLines = later(() => import("./FoundLines").then(({ FoundLines }) => FoundLines));
const HandPanel = later(() => import("./HandPanel").then(({ HandPanel }) => HandPanel));

const FIRST_KINDS: { kind: LayKind; label: string }[] = [
  { kind: "slope", label: "Either" },
  { kind: "level", label: "Horizontal" },
  { kind: "plumb", label: "Vertical" },
];

const MORE_KINDS: { kind: Kind; label: string }[] = [
  { kind: "receding", label: "Receding" },
  { kind: "straight", label: "Straight" },
  { kind: "rectangle", label: "Rectangle" },
  { kind: "witness", label: "Check" },
];

const HINTS: Record<LayKind, string> = {
  slope: "a horizon or a vertical edge: the nearer is assumed",
  level: "the horizon; eaves or sills you face square-on",
  plumb: "a wall corner, a mast, a door frame",
  receding: "two or more parallels running away from you",
  straight: "three points or more along one straight edge",
  rectangle: "a door or window: click its four corners, or drag a box",
  witness: "measured only, never used to correct",
};

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

/** The kinds of line that can be drawn. */
const DrawALine = memo(function DrawALine() {
  const session = useSession();
  const kind = useDesk((state) => state.kind);
  const rare = MORE_KINDS.some((one) => one.kind === kind);
  const [open, setOpen] = useState(rare);
  const button = ({ kind: one, label }: { kind: LayKind; label: string }) => (
    <Touch key={one} flex="1 1 auto" px="4px" aria-pressed={kind === one} onClick={() => session.desk.setState({ kind: one })}>
      {(one === "level" || one === "plumb") && kindSign(one)}
      {label}
    </Touch>
  );
  return (
    <div style={{ padding: "4px 16px 0", flex: "none" }}>
      <div className="row" style={{ alignItems: "baseline", gap: 8, minHeight: 28 }}>
        <h2 style={{ flex: 1 }}>Draw a line</h2>
        <Touch
          aria-label="Draw with the keyboard"
          onClick={() => {
            const stage = document.querySelector<HTMLElement>("[data-stage]");
            stage?.focus();
            stage?.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
          }}
        >
          Keyboard
        </Touch>
      </div>
      <div className="row" role="group" aria-label="Kind of line to draw">
        {FIRST_KINDS.map(button)}
        <Touch flex="1 1 auto" px="4px" aria-expanded={open || rare} disabled={rare} aria-label={open || rare ? "Fewer kinds of line" : "More kinds of line"} onClick={() => setOpen(!open)}>
          {open || rare ? "Fewer" : "More"}
        </Touch>
      </div>
      {(open || rare) && (
        <div className="row" role="group" aria-label="More kinds of line to draw">
          {MORE_KINDS.map(button)}
        </div>
      )}
      <div className="aside" style={{ marginTop: 3 }}>
        {HINTS[kind]}
      </div>
    </div>
  );
});
