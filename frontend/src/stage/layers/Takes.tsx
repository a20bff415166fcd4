import { useShallow } from "zustand/react/shallow";

import { laidParts, sharpestAt } from "../../session/takes";
import { recipeNow, shownNow } from "../../session/session";
import { laidOver } from "../../session/touchUps";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { useTakes } from "../takes/useTakes";
import { useTouchTakes } from "../takes/useTouchUps";
import { frameNow } from "../tools/frameTool";
import { useScene } from "../useStage";
import type { Scene } from "../view/surface";
import { TakesLayer } from "./TakesLayer";
import { TouchLayer } from "./TouchLayer";

const sharpestFor = ({ view }: Scene) => sharpestAt(view.scale * Math.min(2, window.devicePixelRatio || 1));

/** What is laid into the empty corners now; null where nothing is, or not all of it is there yet. */
export function useLaid() {
  const { photo, known } = useSession();
  const edges = useKnown((now) => recipeNow(now)?.edges);
  const madeFor = useKnown((now) => shownNow(now)?.made_for);
  const takes = useTakes();
  const pointed = useDesk((desk) => desk.pointedTake);
  const corrected = useDesk((desk) => desk.shown === "corrected");
  // While the picture is on its way elsewhere, what is laid beside it would not fit.
  const still = useScene(({ mesh }) => mesh !== null && mesh === shownNow(known.getState())?.mesh);
  const sharpest = useScene(sharpestFor);
  if (!edges || !takes || !corrected || !still || edges.mode !== "fill" || takes.made_for !== madeFor) return null;
  return laidParts({ edges }, takes, photo, sharpest, pointed);
}

/** New pixels, laid under the picture into the frame's empty parts. */
export function Takes() {
  const fills = useKnown((known) => recipeNow(known)?.edges.mode === "fill");
  return fills && <LaidInFrame />;
}

function LaidInFrame() {
  const laid = useLaid();
  const frame = useKnown(useShallow(frameNow));
  const { view, size } = useScene((scene) => scene);
  return laid && frame && <TakesLayer laid={laid} frame={{ x: frame[0], y: frame[1], width: frame[2], height: frame[3] }} view={view} stage={size} />;
}

/** Touch-ups that are made, over the picture. */
export function TouchedUp() {
  const any = useKnown((known) => (recipeNow(known)?.edges.touch_ups.length ?? 0) > 0);
  const corrected = useDesk((desk) => desk.shown === "corrected");
  return any && corrected && <OverPicture />;
}

function OverPicture() {
  const edges = useKnown((known) => recipeNow(known)?.edges);
  const seen = useKnown(shownNow);
  const takes = useTouchTakes();
  const pointed = useDesk((desk) => desk.pointedTouch);
  const scene = useScene((state) => state);
  if (!edges || !seen || !scene.mesh) return null;
  const over = laidOver({ edges }, seen.touch_ups, takes, sharpestFor(scene), pointed);
  return over.length > 0 && <TouchLayer over={over} frame={seen.frame} view={scene.view} stage={scene.size} />;
}
