import type { Recipe } from "../../api/client";
import { useShapes } from "../../api/queries";
import { toCorrected } from "../../session/mesh";
import { markOf } from "../../session/ahead";
import { recipeNow } from "../../session/session";
import { usePreferences } from "../../session/preferences";
import { useDesk, useKnown, useSame } from "../../session/useSession";
import { middleBetween, wallsOf } from "../../session/walls";
import { useHands, useScene } from "../useStage";
import { toStage } from "../view/view";
import { composeLines } from "./ComposeLines";
import { useFrame } from "./Frame";
import { boxAbout, cornersOf, rectOnStage } from "./shapes";
import { subjectMark, SubjectTarget } from "./SubjectMark";

/** Without regard to the frame, which the hand may be moving. */
const sameBesidesFrame = (a: Recipe | null, b: Recipe | null) => a?.references === b?.references && a?.frame.subject === b?.frame.subject && a?.photo === b?.photo;

/** What helps to compose at the step Frame: lines in the frame, and the subject mark. */
export function Composing() {
  const frame = useFrame();
  const scene = useScene((state) => state);
  const recipe = useKnown(useSame(recipeNow, sameBesidesFrame));
  const families = usePreferences((state) => state.families);
  const spiral = usePreferences((state) => state.spiral);
  const chosen = useDesk((desk) => desk.walls);
  const marking = useHands((hands) => hands.mark);
  const shapes = useShapes();
  const { mesh, view, size } = scene;
  if (!frame || !recipe || !mesh) return null;
  const subject = marking ? markOf(recipe, marking.from, marking.to) : recipe.frame.subject;
  const corners = subject && cornersOf(subject).map((corner) => toStage(view, size, toCorrected(mesh, corner)));
  const walls = wallsOf(recipe, chosen);
  return (
    <>
      {composeLines({
        rect: rectOnStage(scene, frame),
        families,
        spiral,
        between: walls ? toStage(view, size, [middleBetween(mesh, walls), 0])[0] : null,
        subject: corners && boxAbout(corners),
        scale: view.scale,
        shapes,
      })}
      {corners && subjectMark(corners)}
      {corners && <SubjectTarget corners={corners} />}
    </>
  );
}
