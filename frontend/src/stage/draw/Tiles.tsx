import { edgeOf } from "../../session/mesh";
import { shownNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { useScene, useStage } from "../useStage";
import { FROM_SCALE, TileGrid } from "./TileGrid";

/** The real pixels at 100 % and closer, laid over the preview while nothing moves it. */
export function Tiles() {
  const near = useScene(({ view }) => view.scale >= FROM_SCALE);
  const led = useKnown((state) => state.draft !== null);
  return near && !led && <OverPreview />;
}

function OverPreview() {
  const { photo } = useSession();
  const { surface } = useStage();
  const scene = useScene((state) => state);
  const seen = useKnown(shownNow);
  const corrected = useDesk((desk) => desk.shown === "corrected");
  if (!seen || !scene.mesh) return null;
  if (scene.mesh !== (corrected ? seen.mesh : surface.plainMesh())) return null;
  return <TileGrid photoId={photo} map={corrected ? seen.map : seen.map_as_taken} view={scene.view} stage={scene.size} outline={corrected ? seen.outline : edgeOf(scene.mesh)} />;
}
