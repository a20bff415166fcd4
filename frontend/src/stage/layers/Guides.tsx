import type { Edges, Kind } from "../../api/client";
import { type Point, toCorrected } from "../../session/mesh";
import { usePreferences } from "../../session/preferences";
import { useDesk, useKnown } from "../../session/useSession";
import type { Rect } from "../tools/frameGeometry";
import { useScene } from "../useStage";
import { toStage } from "../view/view";
import { AdviceBand, ringOf } from "./AdviceBand";
import { HeatOverlay } from "./HeatOverlay";
import { ScreenGrid } from "./ScreenGrid";
import { closed, OVER, outlineOnStage } from "./shapes";
import { INK, LIGHT } from "../../parts/theme";

/** The grid that somebody wants at this step. */
export function Grid() {
  const step = useDesk((desk) => desk.step);
  const grid = usePreferences((state) => state.grids[step]);
  const size = useScene((scene) => scene.size);
  return <ScreenGrid grid={grid} stage={size} />;
}

const NONE: readonly Point[] = [];

/** While a line is dragged the picture holds still: where it would go is outlined. */
export function Ghost() {
  const dragged = useKnown(({ draft, glimpse }) => draft !== null && !draft.follow && glimpse !== null);
  const corrected = useDesk((desk) => desk.shown === "corrected");
  return dragged && corrected && <Outline />;
}

function Outline() {
  const outline = useKnown(({ glimpse }) => glimpse?.outline ?? NONE);
  const scene = useScene((state) => state);
  if (!outline.length) return null;
  const path = closed(outlineOnStage(scene, outline));
  return (
    <svg data-ghost aria-hidden="true" style={OVER}>
      <path d={path} fill="none" stroke={INK} strokeWidth={3} strokeDasharray="10 6" />
      <path d={path} fill="none" stroke={LIGHT} strokeWidth={1.4} strokeDasharray="10 6" />
    </svg>
  );
}

/** Where one line more would say most, while nothing is dragged. */
export function Advice() {
  const advice = useKnown(({ seen, draft }) => (draft ? null : (seen?.advice ?? null)));
  const here = useDesk((desk) => desk.step === "lines" && desk.shown !== "before");
  return advice && here && <Band band={advice.band} kind={advice.kind} />;
}

function Band({ band, kind }: { band: Rect; kind: Kind }) {
  const { mesh, view, size } = useScene((state) => state);
  return mesh && <AdviceBand ring={ringOf(band).map((point) => toStage(view, size, toCorrected(mesh, point)))} kind={kind} />;
}

/** How much a reshaped picture is stretched where, while that is wanted. */
export function Heat() {
  const heat = useDesk((desk) => (desk.step === "edges" && desk.shown === "corrected" ? desk.heat : null));
  return heat && <Stretched heat={heat} />;
}

function Stretched({ heat }: { heat: NonNullable<Edges["heat"]> }) {
  const { view, size } = useScene((scene) => scene);
  return <HeatOverlay heat={heat} view={view} stage={size} />;
}
