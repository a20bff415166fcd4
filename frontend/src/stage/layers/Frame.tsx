import { useShallow } from "zustand/react/shallow";

import { readNow, recipeNow, shownNow } from "../../session/session";
import { usePreferences } from "../../session/preferences";
import { widens } from "../../session/desk";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { frameChange, frameNow, roomNow } from "../tools/frameTool";
import type { Rect } from "../tools/frameGeometry";
import { useScene } from "../useStage";
import { FrameOverlay } from "./FrameOverlay";
import { FrameTargets } from "./FrameTargets";
import { NewOverlay } from "./NewOverlay";
import { outlineOnStage, rectOnStage } from "./shapes";
import { useLaid } from "./Takes";

/** The frame in corrected pixels where it is shown; null on the photo as taken. */
export function useFrame(): Rect | null {
  const frame = useKnown(useShallow(frameNow));
  const corrected = useDesk((desk) => desk.shown === "corrected");
  const drawn = useScene(({ mesh }) => mesh !== null);
  const seen = useKnown((known) => known.seen !== null);
  return corrected && drawn && seen ? frame : null;
}

/** Whether the frame is worked on. */
const useFraming = () => useDesk((desk) => desk.step === "frame" || widens(desk));

/** The frame, what it leaves out, and what of it is empty. */
export function Frame() {
  const frame = useFrame();
  const scene = useScene((state) => state);
  const recipe = useKnown(recipeNow);
  const seen = useKnown(shownNow);
  const framing = useFraming();
  const step = useDesk((desk) => desk.step);
  const surround = usePreferences((state) => state.surround);
  const veil = usePreferences((state) => state.veil);
  const laid = useLaid();
  const showNew = usePreferences((state) => state.showNew);
  if (!frame || !recipe || !seen) return null;
  const rect = rectOnStage(scene, frame);
  const outline = outlineOnStage(scene, seen.outline);
  const left = recipe.edges.mode === "leave" && recipe.edges.colour !== null;
  const print = seen.frame.printed;
  const printed: Rect | null = step === "frame" && print?.cut_words ? [frame[0] + print.shown[0], frame[1] + print.shown[1], print.shown[2], print.shown[3]] : null;
  return (
    <>
      <FrameOverlay
        rect={rect}
        stage={scene.size}
        surround={surround}
        held={framing}
        veil={veil}
        outline={recipe.frame.allow_empty && !laid && !left ? outline : null}
        printed={printed && rectOnStage(scene, printed)}
      />
      {laid && showNew && (step === "edges" || step === "export") && <NewOverlay rect={rect} outline={outline} />}
    </>
  );
}

/** The frame in the colour that its empty corners are left in, under the picture. */
export function LeftCorners() {
  const frame = useFrame();
  const scene = useScene((state) => state);
  const colour = useKnown((known) => {
    const edges = recipeNow(known)?.edges;
    return edges?.mode === "leave" ? edges.colour : null;
  });
  if (!frame || !colour) return null;
  const [x, y, width, height] = rectOnStage(scene, frame);
  return <div aria-hidden="true" data-left style={{ position: "absolute", transform: `translate(${x}px, ${y}px)`, width, height, background: colour }} />;
}

/** The frame and its handles for the keyboard, at the steps where it is worked on. */
export function FrameKeys() {
  const session = useSession();
  const frame = useFrame();
  const scene = useScene((state) => state);
  const framing = useFraming();
  // What the frame may be is asked for with the key that moves it.
  useKnown(readNow);
  const room = roomNow(session);
  if (!frame || !framing || !room) return null;
  return <FrameTargets onStage={rectOnStage(scene, frame)} frame={frame} room={room.room} ratio={room.ratio} change={frameChange(session)} />;
}
