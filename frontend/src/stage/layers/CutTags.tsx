import { MUCH_CUT } from "../../api/limits";
import { shownNow } from "../../session/session";
import { percent } from "../../session/shares";
import { useDesk, useKnown } from "../../session/useSession";
import { useScene } from "../useStage";
import { useFrame } from "./Frame";
import { rectOnStage } from "./shapes";

/** So little is not worth a word. */
const NOTICED = 0.005;

/** At the step Crop, beside each side of the frame: how much of the picture lies beyond. */
export function CutTags() {
  return useDesk((desk) => desk.step === "frame") && <Tags />;
}

function Tags() {
  const frame = useFrame();
  const scene = useScene((state) => state);
  const cut = useKnown((known) => shownNow(known)?.frame.cut);
  if (!frame || !cut) return null;
  const [x, y, width, height] = rectOnStage(scene, frame);
  const places = { left: [x, y + height * 0.25], right: [x + width, y + height * 0.25], top: [x + width * 0.25, y], bottom: [x + width * 0.25, y + height] } as const;
  return (["left", "top", "right", "bottom"] as const).map((side) =>
    cut[side] < NOTICED ? null : (
      <div key={side} className="edge-tag" data-cut={side} data-bad={cut[side] > MUCH_CUT} style={{ left: places[side][0], top: places[side][1] }}>
        {percent(cut[side])} cut
      </div>
    ),
  );
}
