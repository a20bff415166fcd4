import { Box } from "@chakra-ui/react";
import { memo, useEffect, useRef, useState } from "react";

import { SURROUNDS } from "../parts/theme";
import { usePreferences } from "../session/preferences";
import { recipeNow } from "../session/session";
import { useDesk, useKnown, useSession } from "../session/useSession";
import { Picture } from "./draw/Picture";
import { Tiles } from "./draw/Tiles";
import { CutTags } from "./layers/CutTags";
import { Frame, FrameKeys, LeftCorners } from "./layers/Frame";
import { Advice, Ghost, Grid, Heat } from "./layers/Guides";
import { LineKeys, Lines } from "./layers/Lines";
import { Placing } from "./layers/Placing";
import { Takes, TouchedUp } from "./layers/Takes";
import { StageControls } from "./StageControls";
import { StageModel } from "./stageModel";
import { StageContext, useScene, useStage } from "./useStage";
import { later } from "../parts/later";

// What is not seen when a photo opens comes when it is.
const Composing = later(() => import("./layers/Composing").then(({ Composing }) => Composing));
const Areas = later(() => import("./layers/Areas").then(({ Areas }) => Areas));
const LineChip = later(() => import("./layers/LineChip").then(({ LineChip }) => LineChip));
const FrameSays = later(() => import("./layers/FrameSays").then(({ FrameSays }) => FrameSays));
const FoundLayer = later(() => import("./layers/FoundLayer").then(({ FoundLayer }) => FoundLayer));
const StillLines = later(() => import("./layers/StillLines").then(({ StillLines }) => StillLines));

/** Layers that only some steps have, and lines that only some people lay. */
function Later() {
  const step = useDesk((desk) => desk.step);
  const still = useDesk((desk) => desk.still.length > 0);
  const chosen = useDesk((desk) => desk.selected !== null);
  const found = useDesk((desk) => desk.found !== null);
  const told = useKnown(({ came }) => came !== null);
  return (
    <>
      {told && <FrameSays />}
      {chosen && step === "lines" && <LineChip />}
      {still && <StillLines />}
      {found && step === "lines" && <FoundLayer />}
      {step === "frame" && <Composing />}
      {step === "edges" && <Areas />}
    </>
  );
}

/** The picture with what is laid on it. Each layer follows what it shows by itself: no move draws the stage anew. */
export const Stage = memo(function Stage() {
  const session = useSession();
  const [stage] = useState(() => new StageModel(session));
  const box = useRef<HTMLDivElement>(null);
  const surround = usePreferences((state) => state.surround);
  const drawing = useDesk((desk) => desk.step === "edges" && desk.shown === "corrected" && desk.drawing !== null);

  useEffect(() => (box.current ? stage.start(box.current) : undefined), [stage]);

  return (
    <StageContext value={stage}>
      <Box
        ref={box}
        position="relative"
        flex="1"
        minH={0}
        overflow="hidden"
        style={{ background: SURROUNDS[surround], touchAction: "none" }}
        role="application"
        aria-label={`Picture. Press Enter to ${drawing ? "mark an area in the middle" : "draw a line with the keyboard"}.`}
        tabIndex={0}
        _focusVisible={{ outlineOffset: "-4px" }}
        data-stage
        data-surround={surround}
        onPointerDown={stage.down}
        onPointerMove={stage.move}
        onPointerUp={stage.up}
        onPointerCancel={stage.cancel}
        onPointerLeave={stage.leave}
        onKeyDown={stage.key}
      >
        <LeftCorners />
        <Takes />
        <Photo />
        <Tiles />
        <TouchedUp />
        <Heat />
        <Ghost />
        <Frame />
        <CutTags />
        <Grid />
        <Advice />
        <Lines />
        <LineKeys />
        <FrameKeys />
        <Later />
        <Placing />
        <StageControls />
      </Box>
    </StageContext>
  );
});

/** The preview of the photo, with a name for those who do not see it. */
function Photo() {
  const { surface } = useStage();
  const title = useKnown(({ bench }) => bench?.photo.title);
  const quarterTurns = useKnown((known) => recipeNow(known)?.photo.quarter_turns);
  const develop = useKnown((known) => recipeNow(known)?.develop ?? null);
  const corrected = useDesk((desk) => desk.shown === "corrected");
  // How large the picture is says how fine it is asked for.
  const ready = useScene(({ mesh, size }) => mesh !== null && size.width > 0);
  if (!ready || title === undefined || quarterTurns === undefined) return null;
  return <Picture scene={surface.scene} quarterTurns={quarterTurns} develop={develop} label={`${title}, ${corrected ? "corrected" : "as taken"}`} />;
}
