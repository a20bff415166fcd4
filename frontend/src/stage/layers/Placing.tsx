import { layKindNow, laysLines } from "../../session/desk";
import { type Point, toCorrected } from "../../session/mesh";
import { usePreferences } from "../../session/preferences";
import { recipeNow, shownNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { useHands, useScene, useStage } from "../useStage";
import { toStage } from "../view/view";
import { magnifier } from "./Magnifier";
import { pictureColour } from "./signs";

/** The magnifier over the point that is being placed, while one is. */
export function Placing() {
  const wanted = usePreferences((state) => state.magnifier);
  const step = useDesk((desk) => desk.step);
  const byHand = useDesk((desk) => desk.byHand);
  const lensPage = useDesk((desk) => desk.lensPage);
  const lays = useKnown((known) => laysLines({ step, byHand, lensPage }, recipeNow(known)));
  const pointing = useHands((hands) => hands.cursor !== null || hands.hover !== null);
  return wanted && lays && pointing ? <AtPoint /> : null;
}

function AtPoint() {
  const { photo } = useSession();
  const { surface } = useStage();
  const { mesh, view, size } = useScene((scene) => scene);
  const { cursor, hover, line, panning } = useHands((hands) => hands);
  const kind = useDesk(layKindNow);
  const shown = useDesk((desk) => desk.shown);
  const photoSize = useKnown((known) => recipeNow(known)?.photo);
  const seen = useKnown(shownNow);
  const at: Point | null = cursor ?? (hover && (shown !== "before" || line.doing !== "nothing") ? surface.photoOf(hover) : null);
  if (!mesh || !seen || !photoSize || !at || panning) return null;
  const [x, y] = at;
  if (x < 0 || y < 0 || x > photoSize.width || y > photoSize.height) return null;
  const corrected = toCorrected(mesh, at);
  return magnifier({
    photoId: photo,
    map: shown === "corrected" ? seen.map : seen.map_as_taken,
    at: corrected,
    onStage: toStage(view, size, corrected),
    onPhoto: at,
    stage: size,
    colour: pictureColour(kind),
  });
}
