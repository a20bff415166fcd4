import { useEffect } from "react";

import { startComparing } from "../session/comparing";
import { keepPending, type LayKind, step, useBench } from "../session/benchStore";
import { deleteLine } from "../stage/tools/lineKeys";
import { nextGrid } from "../stage/StageControls";
import { addStill } from "../stage/tools/still";
import type { StageView } from "../stage/view/useStageView";

interface Shortcut {
  key: string;
  name: string;
  run: (stageView: StageView) => void;
}

const lay = (kind: LayKind) => () => useBench.setState({ kind, step: "lines", byHand: false });

/** The letters come from our own words; the list under "?" is made from this table. */
export const SHORTCUTS: Shortcut[] = [
  { key: "s", name: "lay by its slope", run: lay("slope") },
  { key: "l", name: "lay a level line", run: lay("level") },
  { key: "p", name: "lay a plumb line", run: lay("plumb") },
  { key: "r", name: "lay a receding line", run: lay("receding") },
  { key: "a", name: "lay along something straight", run: lay("straight") },
  { key: "c", name: "lay a rectangle, corner by corner", run: lay("rectangle") },
  { key: "w", name: "lay a witness", run: lay("witness") },
  { key: "e", name: "snap to the real edge, or not", run: () => useBench.setState(({ snap }) => ({ snap: !snap })) },
  {
    key: "t",
    name: "as taken, and back to as corrected",
    run: () => useBench.setState(({ shown }) => ({ shown: shown === "taken" ? "corrected" : "taken" })),
  },
  {
    key: "b",
    name: "flick to before, and back",
    run: () => useBench.setState(({ shown }) => ({ shown: shown === "before" ? "corrected" : "before" })),
  },
  { key: "d", name: "compare side by side", run: startComparing },
  { key: "h", name: "level by hand, and back to lines", run: () => useBench.setState(({ byHand }) => ({ byHand: !byHand, step: "lines" })) },
  { key: "n", name: "a still line, level", run: () => addStill("level") },
  { key: "u", name: "a still line, upright", run: () => addStill("upright") },
  {
    key: "g",
    name: "grid",
    run: () => useBench.setState(({ grids, step: now }) => ({ grids: { ...grids, [now]: nextGrid(grids[now]) } })),
  },
  { key: "m", name: "magnifier", run: () => useBench.setState(({ magnifier }) => ({ magnifier: !magnifier })) },
  { key: "f", name: "fit the picture to the stage", run: (view) => view.fit() },
  { key: "1", name: "100 %", run: (view) => view.zoomTo(1) },
  { key: "2", name: "200 %", run: (view) => view.zoomTo(2) },
  { key: "+", name: "closer", run: (view) => view.zoomBy(1.25) },
  { key: "-", name: "farther", run: (view) => view.zoomBy(0.8) },
  {
    key: "Delete",
    name: "delete the chosen line",
    run: () => {
      const { selected } = useBench.getState();
      if (selected) deleteLine(selected);
    },
  },
];

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches("input, textarea, select") || target.isContentEditable);

/** Undo and redo always; the letters while they are switched on and nothing is being typed. */
export function useShortcuts(stageView: StageView) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (typing(event.target)) return;
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
        event.preventDefault();
        void step(event.shiftKey ? "redo" : "undo");
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey || !useBench.getState().shortcuts) return;
      const found = SHORTCUTS.find(({ key }) => key === event.key || key === event.key.toLowerCase());
      if (!found) return;
      event.preventDefault();
      found.run(stageView);
    };
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  });
  useEffect(() => {
    const leave = () => void keepPending();
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, []);
}
