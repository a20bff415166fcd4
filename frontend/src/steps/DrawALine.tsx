import { memo, useState } from "react";

import type { Kind } from "../api/client";
import { Touch } from "../parts/Touch";
import type { LayKind } from "../session/model";
import { useDesk, useSession } from "../session/useSession";
import { kindSign } from "../stage/layers/signs";

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

/** The kinds of line that can be drawn. */
export const DrawALine = memo(function DrawALine() {
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
