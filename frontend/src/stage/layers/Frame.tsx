import { useShallow } from "zustand/react/shallow";

import { type Known, recipeNow, shownNow } from "../../session/session";
import { usePreferences } from "../../session/preferences";
import { widens } from "../../session/desk";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { frameNow } from "../tools/frameTool";
import type { Rect } from "../tools/frameGeometry";
import { useScene } from "../useStage";
import { frameOverlay } from "./FrameOverlay";
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
  const mayBeEmpty = useKnown((known) => recipeNow(known)?.frame.allow_empty ?? false);
  const left = useKnown((known) => leftColour(known) !== null);
  const seenOutline = useKnown((known) => shownNow(known)?.outline);
  const print = useKnown((known) => shownNow(known)?.frame.printed ?? null);
  const framing = useFraming();
  const step = useDesk((desk) => desk.step);
  const surround = usePreferences((state) => state.surround);
  const veil = usePreferences((state) => state.veil);
  const laid = useLaid() !== null;
  const showNew = usePreferences((state) => state.showNew);
  if (!frame || !seenOutline) return null;
  const rect = rectOnStage(scene, frame);
  const outline = outlineOnStage(scene, seenOutline);
  const printed: Rect | null = step === "frame" && print?.cut_words ? [frame[0] + print.shown[0], frame[1] + print.shown[1], print.shown[2], print.shown[3]] : null;
  return (
    <>
      {frameOverlay({
        rect,
        stage: scene.size,
        surround,
        held: framing,
        veil,
        outline: mayBeEmpty && !laid && !left ? outline : null,
        printed: printed && rectOnStage(scene, printed),
      })}
      {laid && showNew && (step === "edges" || step === "export") && <NewOverlay rect={rect} outline={outline} />}
    </>
  );
}

const leftColour = (known: Known): string | null => {
  const edges = recipeNow(known)?.edges;
  return edges?.mode === "leave" ? edges.colour : null;
};

/** The frame in the colour that its empty corners are left in, under the picture. */
export function LeftCorners() {
  const colour = useKnown(leftColour);
  return colour && <LeftNow colour={colour} />;
}

function LeftNow({ colour }: { colour: string }) {
  const frame = useFrame();
  const scene = useScene((state) => state);
  return frame && <Left rect={rectOnStage(scene, frame)} colour={colour} />;
}

/** A frame on the stage in the colour that its empty corners are left in. */
export function Left({ rect: [x, y, width, height], colour }: { rect: Rect; colour: string }) {
  return <div aria-hidden="true" data-left style={{ position: "absolute", transform: `translate(${x}px, ${y}px)`, width, height, background: colour }} />;
}

/** The frame and its handles for the keyboard, at the steps where it is worked on. */
export function FrameKeys() {
  return useFraming() && <Handles />;
}

function Handles() {
  const session = useSession();
  const frame = useFrame();
  const scene = useScene((state) => state);
  if (!frame) return null;
  return <FrameTargets onStage={rectOnStage(scene, frame)} frame={frame} session={session} />;
}
