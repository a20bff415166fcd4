import { toCorrected } from "../../session/mesh";
import { usePreferences } from "../../session/preferences";
import { useDesk, useKnown } from "../../session/useSession";
import { useScene } from "../useStage";
import { toStage } from "../view/view";
import { AdviceBand, ringOf } from "./AdviceBand";
import { HeatOverlay } from "./HeatOverlay";
import { ScreenGrid } from "./ScreenGrid";
import { closed, OVER, outlineOnStage } from "./shapes";

/** The grid that somebody wants at this step. */
export function Grid() {
  const step = useDesk((desk) => desk.step);
  const grid = usePreferences((state) => state.grids[step]);
  const size = useScene((scene) => scene.size);
  return <ScreenGrid grid={grid} stage={size} />;
}

/** While a line is dragged the picture holds still: where it would go is outlined. */
export function Ghost() {
  const outline = useKnown(({ draft, glimpse }) => (draft && !draft.follow ? (glimpse?.outline ?? null) : null));
  const corrected = useDesk((desk) => desk.shown === "corrected");
  const scene = useScene((state) => state);
  if (!outline || !corrected) return null;
  const path = closed(outlineOnStage(scene, outline));
  return (
    <svg data-ghost aria-hidden="true" style={OVER}>
      <path d={path} fill="none" stroke="#22252a" strokeWidth={3} strokeDasharray="10 6" />
      <path d={path} fill="none" stroke="#ffffff" strokeWidth={1.4} strokeDasharray="10 6" />
    </svg>
  );
}

/** Where one line more would say most, while nothing is dragged. */
export function Advice() {
  const advice = useKnown(({ seen, draft }) => (draft ? null : (seen?.advice ?? null)));
  const here = useDesk((desk) => desk.step === "lines" && desk.shown !== "before");
  const scene = useScene((state) => state);
  const { mesh } = scene;
  if (!advice || !here || !mesh) return null;
  return <AdviceBand ring={ringOf(advice.band).map((point) => toStage(scene.view, scene.size, toCorrected(mesh, point)))} kind={advice.kind} />;
}

/** How much a reshaped picture is stretched where, while that is wanted. */
export function Heat() {
  const heat = useDesk((desk) => (desk.step === "edges" && desk.shown === "corrected" ? desk.heat : null));
  const { view, size } = useScene((scene) => scene);
  return heat && <HeatOverlay heat={heat} view={view} stage={size} />;
}
