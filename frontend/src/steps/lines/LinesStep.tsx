import { memo, useState } from "react";

import type { Kind, Reference } from "../../api/client";
import { usePreferences } from "../../session/preferences";
import { around } from "../../session/around";
import { recipeNow } from "../../session/session";
import { useDesk, useKnown, useSame, useSession } from "../../session/useSession";
import { kindSign } from "../../stage/layers/signs";
import { Touch } from "../../parts/Touch";
import { LineEntry } from "./LineEntry";
import { TakenOut } from "./TakenOut";
import type { LayKind } from "../../session/model";
import { later } from "../../parts/later";

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

/** What the step Lines needs: the kinds, the readings, and at the foot what is taken out. */
export function LinesStep() {
  const count = useKnown((state) => recipeNow(state)?.references.length ?? 0);
  const byHand = useDesk((state) => state.byHand);
  if (byHand) return <HandPanel />;
  return (
    <>
      <LayALine />
      <div style={{ paddingInline: 16, flex: "none" }}>
        <div className="row" style={{ justifyContent: "space-between", alignItems: "center", marginBlock: 5, minHeight: 40 }}>
          <h2>Your lines</h2>
          <div className="beside">{count === 1 ? "1 line" : `${count} lines`}</div>
          {count > 0 && <BookActions />}
        </div>
      </div>
      <ol tabIndex={-1} style={{ flex: "1", minHeight: 104, overflowY: "auto", margin: 0, padding: 0, borderTop: "1px solid", borderColor: "var(--chakra-colors-rule)" }}>
        {count === 0 && (
          <li style={{ listStyleType: "none", padding: 16, color: "var(--chakra-colors-second)" }}>
            No lines yet. Drag along the horizon, a wall corner or a mast, or click its two ends. Longer lines are more accurate.
          </li>
        )}
        <Entries />
      </ol>
      <TakenOut />
    </>
  );
}

/** Without regard to where lines lie: an entry stays as it is while its line is moved. */
const sameBesidesPoints = (a: readonly Reference[] = [], b: readonly Reference[] = []) =>
  a.length === b.length &&
  a.every((line, at) => {
    const other = around(b, at);
    return line === other || JSON.stringify({ ...line, points: 0, sigma_px: 0 }) === JSON.stringify({ ...other, points: 0, sigma_px: 0 });
  });

function Entries() {
  const selected = useDesk((state) => state.selected);
  const pointed = useDesk((state) => state.pointed);
  const references = useKnown(useSame((known) => recipeNow(known)?.references, sameBesidesPoints));
  return references?.map((line, index) => (
    <LineEntry key={line.id} number={index + 1} line={line} chosen={selected === line.id} pointed={pointed === line.id} />
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
      <Touch px="8px" fontSize="0.8125rem" onClick={() => void session.do({ do: "clear lines" })}>
        Delete all
      </Touch>
    </div>
  );
}

/** The kinds, and what helps to lay a line well. */
const LayALine = memo(function LayALine() {
  const session = useSession();
  const kind = useDesk((state) => state.kind);
  const magnifier = usePreferences((state) => state.magnifier);
  const snap = usePreferences((state) => state.snap);
  const rare = MORE_KINDS.some((one) => one.kind === kind);
  const [open, setOpen] = useState(rare);
  const button = ({ kind: one, label }: { kind: LayKind; label: string }) => (
    <Touch key={one} flex="1 1 auto" px="5px" gap="4px" fontSize="0.8125rem" aria-pressed={kind === one} onClick={() => session.desk.setState({ kind: one })}>
      {(one === "level" || one === "plumb") && kindSign(one)}
      {label}
    </Touch>
  );
  return (
    <div style={{ paddingInline: 16, paddingTop: 10, flex: "none" }}>
      <div className="row" style={{ justifyContent: "space-between", alignItems: "baseline", gap: 8 }}>
        <h2>Draw a line</h2>
        <div className="beside">{HINTS[kind]}</div>
      </div>
      <div className="row" role="group" aria-label="Kind of line to draw" style={{ marginTop: 6, gap: 5, flexWrap: "wrap" }}>
        {FIRST_KINDS.map(button)}
        {(open || rare) && MORE_KINDS.map(button)}
      </div>
      <div className="row" style={{ marginTop: 5, gap: 5 }}>
        <Touch flex="1 1 auto" px="4px" fontSize="0.8125rem" aria-expanded={open || rare} disabled={rare} onClick={() => setOpen(!open)}>
          {open || rare ? "Fewer" : "More"}
        </Touch>
        <Touch flex="1 1 auto" px="4px" fontSize="0.8125rem" aria-pressed={snap} onClick={() => usePreferences.setState({ snap: !snap })}>
          Snap {snap ? "on" : "off"}
        </Touch>
        <Touch
          flex="1 1 auto"
          px="4px"
          fontSize="0.8125rem"
          aria-pressed={magnifier}
          aria-label={`Magnifier ${magnifier ? "on" : "off"}`}
          onClick={() => usePreferences.setState({ magnifier: !magnifier })}
        >
          Magnifier
        </Touch>
        <Touch
          flex="1 1 auto"
          px="4px"
          fontSize="0.8125rem"
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
    </div>
  );
});
