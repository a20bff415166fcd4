import type { Recipe } from "../../api/client";
import { SHARES } from "../../api/limits";
import { useShapes } from "../../api/queries";
import { type Point, toCorrected } from "../../session/mesh";
import { markOf } from "../../session/ahead";
import { recipeNow } from "../../session/session";
import { usePreferences } from "../../session/preferences";
import { useDesk, useKnown, useSame } from "../../session/useSession";
import { middleBetween, wallsOf } from "../../session/walls";
import { INDEX, INK, LIGHT } from "../../parts/theme";
import type { Rect } from "../tools/frameGeometry";
import type { Placing as Held } from "../tools/hands";
import { useHands, useScene } from "../useStage";
import { toStage } from "../view/view";
import { composeLines } from "./ComposeLines";
import { useFrame } from "./Frame";
import { boxAbout, cornersOf, OVER, rectOnStage } from "./shapes";
import { middleOf, subjectMark, SubjectTarget } from "./SubjectMark";

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
  const placing = useHands((hands) => hands.placing);
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
        families: placing && !families.some((family) => family in SHARES) ? ["thirds", ...families] : families,
        spiral,
        between: walls ? toStage(view, size, [middleBetween(mesh, walls), 0])[0] : null,
        subject: corners && boxAbout(corners),
        scale: view.scale,
        shapes,
      })}
      {corners && subjectMark(corners)}
      {corners && placing && <Towards from={middleOf(corners)} frame={rectOnStage(scene, frame)} placing={placing} />}
      {corners && <SubjectTarget corners={corners} />}
    </>
  );
}

/** The subject in the hand: a thread to the line of the frame, or the crossing, that it is put on. */
function Towards({ from, frame: [x, y, width, height], placing: { at, across, down } }: { from: Point; frame: Rect; placing: Held }) {
  const [left, top] = [across === null ? null : x + width * across, down === null ? null : y + height * down];
  const lines = (left === null ? "" : `M${left} ${y}v${height}`) + (top === null ? "" : `M${x} ${top}h${width}`);
  const to: Point = [left ?? (top === null ? at[0] : from[0]), top ?? (left === null ? at[1] : from[1])];
  return (
    <svg data-towards={[across, down].map((share) => share?.toFixed(2) ?? "").join(" ")} aria-hidden="true" style={OVER} fill="none">
      <path d={lines} stroke={INK} strokeWidth={5} />
      <path d={lines} stroke={INDEX} strokeWidth={2.5} />
      <path d={`M${from.join(" ")}L${to.join(" ")}`} stroke={LIGHT} strokeWidth={5} />
      <path d={`M${from.join(" ")}L${to.join(" ")}`} stroke={INK} strokeWidth={1.6} />
      <circle cx={to[0]} cy={to[1]} r={7} fill={INDEX} stroke={INK} strokeWidth={1.8} />
    </svg>
  );
}
