import { Flex } from "@chakra-ui/react";
import { memo } from "react";

import { Touch } from "../parts/Touch";
import { startComparing } from "../session/comparing";
import { type Grid, type Surround, turnQuarter, useBench } from "../session/benchStore";
import { useHeight } from "./view/useSize";

const NEXT_SURROUND: Record<Surround, Surround> = { neutral: "darker", darker: "lighter", lighter: "neutral" };

const small = { fontSize: "13px", px: "10px" };

export function nextGrid(grid: Grid): Grid {
  const all: Grid[] = ["none", "coarse", "fine", "square"];
  return all[(all.indexOf(grid) + 1) % all.length]!;
}

interface Props {
  scale: number;
  fitted: boolean;
  fit: () => void;
  zoomTo: (scale: number) => void;
  onHeight: (height: number) => void;
}

/** What can be done to the view, at the foot of the stage. */
export const StageControls = memo(function StageControls({ scale, fitted, fit, zoomTo, onHeight }: Props) {
  const row = useHeight(onHeight);
  const step = useBench((state) => state.step);
  const shown = useBench((state) => state.shown);
  const grids = useBench((state) => state.grids);
  const surround = useBench((state) => state.surround);
  const near = (wanted: number) => !fitted && Math.abs(scale - wanted) < 0.005;
  const show = (wanted: typeof shown) => useBench.setState({ shown: wanted });
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
      <Flex gap="6px" wrap="wrap" role="group" aria-label="View">
        <Touch {...small} aria-pressed={fitted} onClick={fit}>
          Fit
        </Touch>
        <Touch {...small} aria-pressed={near(1)} onClick={() => zoomTo(1)}>
          100 %
        </Touch>
        <Touch {...small} aria-pressed={near(2)} onClick={() => zoomTo(2)}>
          200 %
        </Touch>
        <Touch
          {...small}
          aria-pressed={grids[step] !== "none"}
          onClick={() => useBench.setState({ grids: { ...grids, [step]: nextGrid(grids[step]) } })}
        >
          Grid{grids[step] === "none" ? "" : `: ${grids[step]}`}
        </Touch>
        <Touch {...small} aria-label={`Surround: ${surround}`} onClick={() => useBench.setState({ surround: NEXT_SURROUND[surround] })}>
          Surround
        </Touch>
        <Touch {...small} onClick={() => void turnQuarter("left")}>
          Quarter left
        </Touch>
        <Touch {...small} onClick={() => void turnQuarter("right")}>
          Quarter right
        </Touch>
      </Flex>
      <Flex gap="6px" wrap="wrap">
        <Touch {...small} aria-pressed={shown === "before"} onClick={() => show(shown === "before" ? "corrected" : "before")}>
          Before
        </Touch>
        <Touch {...small} onClick={startComparing}>
          Compare
        </Touch>
        <Flex role="group" aria-label="The picture is shown">
          {(["corrected", "taken"] as const).map((one) => (
            <Touch
              key={one}
              {...small}
              borderRadius={one === "corrected" ? "4px 0 0 4px" : "0 4px 4px 0"}
              borderLeftWidth={one === "corrected" ? "1px" : 0}
              css={{ "&[aria-pressed=true]": { bg: "ink", color: "touch" } }}
              aria-pressed={shown === one}
              onClick={() => show(one)}
            >
              as {one}
            </Touch>
          ))}
        </Flex>
      </Flex>
    </Flex>
  );
});
