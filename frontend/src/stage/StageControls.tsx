import { memo, useEffect, useRef } from "react";
import { useStore } from "zustand";

import { Switch } from "../parts/Switch";
import { Touch } from "../parts/Touch";
import { startComparing } from "../session/desk";
import type { Grid, Surround } from "../session/model";
import { turnGrid, usePreferences } from "../session/preferences";
import { recipeNow } from "../session/session";
import { useDesk, useKnown, useSession } from "../session/useSession";
import { onSize } from "./view/gestures";
import { useStage } from "./useStage";

const NEXT_SURROUND: Record<Surround, Surround> = { neutral: "darker", darker: "lighter", lighter: "neutral" };
const GREYS: Record<Surround, string> = { neutral: "mid", darker: "dark", lighter: "light" };
export const GRID_NAMES: Record<Grid, string> = { none: "off", coarse: "wide", fine: "narrow", square: "square cells" };

/** What can be done to the view, in words on the stage's upper edge. */
export const StageControls = memo(function StageControls() {
  const session = useSession();
  const { surface } = useStage();
  const { fit, whole, zoomTo, store } = surface.view;
  const row = useRef<HTMLDivElement>(null);
  const step = useDesk((state) => state.step);
  const shown = useDesk((state) => state.shown);
  const grids = usePreferences((state) => state.grids);
  const surround = usePreferences((state) => state.surround);
  const snap = usePreferences((state) => state.snap);
  const magnifier = usePreferences((state) => state.magnifier);
  const fitted = useStore(store, (state) => state.fitted);
  const percent = useStore(store, ({ view, fitted }) => (fitted ? 0 : [1, 2].find((wanted) => Math.abs(view.scale - wanted) < 0.005) ?? 0));
  useEffect(() => {
    const element = row.current;
    return element ? onSize(element, () => surface.setControlsHeight(element.offsetHeight)) : undefined;
  }, [surface]);
  const show = (wanted: typeof shown) => session.desk.setState({ shown: wanted });
  const draws = step === "lines" || step === "lens";
  return (
    <div ref={row} data-controls className="view">
      <div className="row" role="group" aria-label="Show the picture">
        <Touch aria-pressed={shown === "taken"} onClick={() => show("taken")}>
          As taken
        </Touch>
        <Touch aria-pressed={shown === "corrected"} onClick={() => show("corrected")}>
          Corrected
        </Touch>
      </div>
      <div className="row" role="group" aria-label="View">
        <Touch aria-pressed={fitted === "fit"} onClick={fit}>
          Fit
        </Touch>
        <Touch aria-pressed={fitted === "whole"} onClick={whole}>
          Whole
        </Touch>
        <Touch aria-pressed={percent === 1} onClick={() => zoomTo(1)}>
          100%
        </Touch>
        <Touch aria-pressed={percent === 2} onClick={() => zoomTo(2)}>
          200%
        </Touch>
      </div>
      <Touch onClick={() => turnGrid(step)}>Grid: {GRID_NAMES[grids[step]]}</Touch>
      <Touch aria-label={`Background: ${GREYS[surround]} grey`} onClick={() => usePreferences.setState({ surround: NEXT_SURROUND[surround] })}>
        Background
      </Touch>
      {step === "frame" && <MarkSubject />}
      {draws && (
        <>
          <Switch on={snap} label="Snap to edges" onTurn={() => usePreferences.setState({ snap: !snap })} />
          <Switch on={magnifier} label="Magnifier" onTurn={() => usePreferences.setState({ magnifier: !magnifier })} />
        </>
      )}
      <span style={{ flex: 1 }} />
      <Touch onClick={() => startComparing(session)}>Compare</Touch>
    </div>
  );
});

/** Marking the subject without a page of its own. */
function MarkSubject() {
  const session = useSession();
  const marking = useDesk((desk) => desk.marking);
  const marked = useKnown((known) => recipeNow(known)?.frame.subject != null);
  return (
    <>
      <Switch on={marking} label="Mark the subject" onTurn={() => session.desk.setState({ marking: !marking, shown: "corrected" })} />
      <span>{marked ? "Drag it onto a line." : "or double-click it"}</span>
    </>
  );
}
