import { toCorrected } from "../../session/mesh";
import { markOf } from "../../session/recipeEdits";
import { recipeNow } from "../../session/session";
import { usePreferences } from "../../session/preferences";
import { useDesk, useKnown } from "../../session/useSession";
import { middleBetween, wallsOf } from "../../session/walls";
import { useHands, useScene } from "../useStage";
import { toStage } from "../view/view";
import { ComposeLines } from "./ComposeLines";
import { useFrame } from "./Frame";
import { boxAbout, cornersOf, rectOnStage } from "./shapes";
import { SubjectMark, SubjectTarget } from "./SubjectMark";

/** What helps to compose at the step Frame: lines in the frame, and the subject mark. */
export function Composing() {
  const frame = useFrame();
  const here = useDesk((desk) => desk.step === "frame");
  return frame && here ? <InFrame /> : null;
}

function InFrame() {
  const frame = useFrame();
  const scene = useScene((state) => state);
  const recipe = useKnown(recipeNow);
  const families = usePreferences((state) => state.families);
  const spiral = usePreferences((state) => state.spiral);
  const chosen = useDesk((desk) => desk.walls);
  const marking = useHands((hands) => hands.mark);
  const { mesh, view, size } = scene;
  if (!frame || !recipe || !mesh) return null;
  const subject = marking ? markOf(recipe, marking.from, marking.to) : recipe.frame.subject;
  const corners = subject && cornersOf(subject).map((corner) => toStage(view, size, toCorrected(mesh, corner)));
  const walls = wallsOf(recipe, chosen);
  return (
    <>
      <ComposeLines
        rect={rectOnStage(scene, frame)}
        families={families}
        spiral={spiral}
        between={walls ? toStage(view, size, [middleBetween(mesh, walls), 0])[0] : null}
        subject={corners && boxAbout(corners)}
        scale={view.scale}
      />
      {corners && <SubjectMark corners={corners} />}
      {corners && <SubjectTarget corners={corners} />}
    </>
  );
}
