import type { Action } from "../../api/client";
import { Touch } from "../../parts/Touch";
import { previewed } from "../../session/preview";
import { useKnown, useSession } from "../../session/useSession";
import { useScene } from "../useStage";
import { useFrame } from "./Frame";
import { rectOnStage } from "./shapes";

interface Way {
  label: string;
  action: Action;
  /** Whether it takes the place of what was done. */
  instead?: boolean;
}

/** What else may be done: as near as can be; filled rather than reduced; the largest there is. */
function otherWay(action: Action, done: boolean): Way | null {
  if (action.do === "place")
    return done ? { label: "Keep its size, fill the corners", action: { ...action, fill: true }, instead: true } : { label: "Use the nearest possible", action: { ...action, nearest: true } };
  return action.do === "frame" || action.do === "ratio" ? null : { label: "Make it the largest that fits", action: { do: "frame", rect: null } };
}

/** Beside the frame: that it had to give way or cannot do as asked, what is in the way, and the alternative. */
export function FrameSays() {
  const session = useSession();
  const frame = useFrame();
  const scene = useScene((state) => state);
  const came = useKnown((known) => known.came);
  if (!frame || !came || came.refused) return null;
  const [x, y, width, height] = rectOnStage(scene, frame);
  const other = otherWay(came.action, came.done);
  const take = ({ action, instead }: Way) => {
    if (instead) void session.step("undo");
    void session.do(action);
  };
  const bottom = Math.max(8, scene.size.height - Math.min(y + height, scene.size.height) + 12);
  return (
    <div data-controls data-frame-says role="status" className="chip frame-says" style={{ left: Math.min(Math.max(x + width / 2, 0), scene.size.width), bottom }}>
      <span>{came.words}</span>
      {other && (
        <div className="chip-acts">
          <Touch {...(other.instead ? {} : previewed(session, other.action))} onClick={() => take(other)}>
            {other.label}
          </Touch>
        </div>
      )}
    </div>
  );
}
