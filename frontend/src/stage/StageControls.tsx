import { Flex } from "@chakra-ui/react";
import { memo, useEffect, useRef } from "react";
import { useStore } from "zustand";

import { Touch } from "../parts/Touch";
import { startComparing } from "../session/desk";
import type { Surround } from "../session/model";
import { turnGrid, usePreferences } from "../session/preferences";
import { useDesk, useSession } from "../session/useSession";
import { onSize } from "./view/gestures";
import { useStage } from "./useStage";

const NEXT_SURROUND: Record<Surround, Surround> = { neutral: "darker", darker: "lighter", lighter: "neutral" };

const small = { fontSize: "0.8125rem", px: "10px" };

/** What can be done to the view, at the foot of the stage. */
export const StageControls = memo(function StageControls() {
  const session = useSession();
  const { surface } = useStage();
  const { fit, zoomTo, store } = surface.view;
  const row = useRef<HTMLDivElement>(null);
  const step = useDesk((state) => state.step);
  const shown = useDesk((state) => state.shown);
  const grids = usePreferences((state) => state.grids);
  const surround = usePreferences((state) => state.surround);
  const fitted = useStore(store, (state) => state.fitted);
  const percent = useStore(store, ({ view, fitted }) => (fitted ? 0 : [1, 2].find((wanted) => Math.abs(view.scale - wanted) < 0.005) ?? 0));
  useEffect(() => {
    const element = row.current;
    return element ? onSize(element, () => surface.setControlsHeight(element.offsetHeight)) : undefined;
  }, [surface]);
  const show = (wanted: typeof shown) => session.desk.setState({ shown: wanted });
  return (
    <Flex
      ref={row}
      data-controls
      position="absolute"
      left="12px"
      right="12px"
      bottom="10px"
      wrap="wrap"
      justify="space-between"
      gap="6px"
      pointerEvents="none"
      css={{ "& button": { pointerEvents: "auto" } }}
    >
      <div className="row" role="group" aria-label="View" style={{ gap: 6, flexWrap: "wrap" }}>
        <Touch {...small} aria-pressed={fitted} onClick={fit}>
          Fit
        </Touch>
        <Touch {...small} aria-pressed={percent === 1} onClick={() => zoomTo(1)}>
          100%
        </Touch>
        <Touch {...small} aria-pressed={percent === 2} onClick={() => zoomTo(2)}>
          200%
        </Touch>
        <Touch
          {...small}
          aria-pressed={grids[step] !== "none"}
          onClick={() => turnGrid(step)}
        >
          Grid{grids[step] === "none" ? "" : `: ${grids[step]}`}
        </Touch>
        <Touch {...small} aria-label={`Surround: ${surround}`} onClick={() => usePreferences.setState({ surround: NEXT_SURROUND[surround] })}>
          Surround
        </Touch>
        <Touch {...small} onClick={() => void session.turnQuarter("left")}>
          Rotate left 90°
        </Touch>
        <Touch {...small} onClick={() => void session.turnQuarter("right")}>
          Rotate right 90°
        </Touch>
      </div>
      <div className="row" style={{ gap: 6, flexWrap: "wrap" }}>
        <Touch {...small} aria-pressed={shown === "before"} onClick={() => show(shown === "before" ? "corrected" : "before")}>
          Before
        </Touch>
        <Touch {...small} onClick={() => startComparing(session)}>
          Compare
        </Touch>
        <div className="row" role="group" aria-label="Show the picture">
          {(["corrected", "taken"] as const).map((one) => (
            <Touch
              key={one}
              {...small}
              borderRadius={one === "corrected" ? "4px 0 0 4px" : "0 4px 4px 0"}
              borderLeftWidth={one === "corrected" ? "1px" : 0}
              className="touch-filled"
              aria-pressed={shown === one}
              onClick={() => show(one)}
            >
              {one === "corrected" ? "Corrected" : "As taken"}
            </Touch>
          ))}
        </div>
      </div>
    </Flex>
  );
});
