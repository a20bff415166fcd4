import { useShallow } from "zustand/react/shallow";

import type { AngleName } from "../../api/client";

import { recipeNow } from "../../session/session";
import { useKnown, useSession } from "../../session/useSession";
import { Touch } from "../../parts/Touch";
import { StillPanel } from "../StillPanel";
import { Angle, FocalLength, NAMES, Proportion } from "./TakenOut";

const ANGLES: AngleName[] = ["roll", "pitch", "yaw"];

/** Work without a line: every angle and the proportion by vernier, against what stands still. */
export function HandPanel() {
  const session = useSession();
  const ready = useKnown((known) => known.seen !== null);
  const moved = useKnown(useShallow((known) => ANGLES.filter((name) => recipeNow(known)?.correction.by_hand[name] !== 0)));
  const stretched = useKnown((known) => recipeNow(known)?.correction.proportion !== 1);
  if (!ready) return null;
  const touched = stretched || moved.length > 0;
  return (
    <div data-by-hand className="leaf">
      <div className="row" style={{ justifyContent: "space-between", alignItems: "center", gap: 6 }}>
        <h2 style={{ fontWeight: 700, flex: "1" }}>
          Adjust by hand
        </h2>
        <Touch px="8px" fontSize="0.8125rem" disabled={!touched} onClick={() => void session.do({ do: "hand back", angle: null })}>
          Reset all
        </Touch>
        <Touch px="8px" fontSize="0.8125rem" onClick={() => session.desk.setState({ byHand: false })}>
          Back to lines
        </Touch>
      </div>
      {ANGLES.map((name) => (
        <Angle key={name} name={name}>
          <Touch
            px="6px"
            minW="44px"
            fontSize="0.8125rem"
            disabled={!moved.includes(name)}
            aria-label={`Reset ${NAMES[name].toLowerCase()}`}
            onClick={() => void session.do({ do: "hand back", angle: name })}
          >
            Reset
          </Touch>
        </Angle>
      ))}
      <Proportion />
      <FocalLength />
      <div className="row" style={{ gap: 8, marginTop: 4 }}>
        <Touch onClick={() => void session.turnQuarter("left")}>Rotate left 90°</Touch>
        <Touch onClick={() => void session.turnQuarter("right")}>Rotate right 90°</Touch>
      </div>
      <div style={{ marginTop: 6 }}>
        <StillPanel />
      </div>
    </div>
  );
}
