import type { Point } from "../../session/mesh";
import { recipeNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { useHands, useScene } from "../useStage";
import { toStage } from "../view/view";
import { AreasOverlay, AreaTargets } from "./AreasOverlay";

/** The areas that the open page of the step Edges speaks of, and what is being drawn. */
export function Areas() {
  const corrected = useDesk((desk) => desk.shown === "corrected");
  return corrected && <OnPicture />;
}

function OnPicture() {
  const session = useSession();
  const edges = useKnown((known) => recipeNow(known)?.edges);
  const page = useDesk((desk) => desk.edgesPage);
  const area = useDesk((desk) => desk.area);
  const stroke = useHands((hands) => hands.stroke);
  const { view, size } = useScene((scene) => scene);
  if (!edges) return null;
  const touchUps = page === "touch up" ? edges.touch_ups.filter(({ active }) => active) : [];
  const donors = page === "donors" || page === "touch up" ? edges.donors : [];
  const onStage = (point: Point) => toStage(view, size, point);
  return (
    <>
      <AreasOverlay touchUps={touchUps} donors={donors} selected={area} drawn={stroke} toStage={onStage} scale={view.scale} />
      <AreaTargets touchUps={touchUps} donors={donors} toStage={onStage} onFocus={(id) => session.desk.setState({ area: id })} />
    </>
  );
}
