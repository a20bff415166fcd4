import { useEffect } from "react";

import { api } from "../../api/client";
import { moveStill, removeStill, stillName } from "../../session/desk";
import { recipeNow, shownNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import type { Still } from "../../session/model";
import type { Point } from "../../session/mesh";
import { useScene } from "../useStage";
import { fromStage, type Size, type View } from "../view/view";
import { INK, LIGHT } from "../../parts/theme";

const GRIP = 40;
const RESTS_MS = 200;

const endsOf = ({ way, at }: Still, stage: Size): [Point, Point] =>
  way === "level"
    ? [[0, at * stage.height], [stage.width, at * stage.height]]
    : [[at * stage.width, stage.height], [at * stage.width, 0]];

/** Lines that stay where they are while the picture moves under them; each says what the picture does there. */
export function StillLines() {
  const still = useDesk((state) => state.still);
  const under = useDesk((state) => state.under);
  const view = useScene((scene) => scene.view);
  const stage = useScene((scene) => scene.size);
  useUnder(still, stage, view);
  return still.map((line, number) => {
    const level = line.way === "level";
    const [x, y] = level ? [0, line.at * stage.height] : [line.at * stage.width, 0];
    const path = level ? `M0 ${y}H${stage.width}` : `M${x} 0V${stage.height}`;
    const words = under[line.id] ?? "";
    return (
      <div key={line.id} data-still={line.way}>
        <svg aria-hidden="true" style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
          <path d={path} stroke={INK} strokeWidth={5} />
          <path d={path} stroke={LIGHT} strokeWidth={2} />
        </svg>
        <Grip line={line} name={stillName(number)} words={words} stage={stage} at={[x, y]} />
      </div>
    );
  });
}

interface GripProps {
  line: Still;
  name: string;
  words: string;
  stage: Size;
  at: Point;
}

/** What a still line is dragged by: at the stage's edge, so that it is not in the way of the picture. */
function Grip({ line, name, words, stage, at }: GripProps) {
  const session = useSession();
  const level = line.way === "level";
  const size = level ? stage.height : stage.width;
  const drag = (event: React.PointerEvent) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const lead = (event: React.PointerEvent) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    event.stopPropagation();
    const place = event.currentTarget.closest("[data-stage]")?.getBoundingClientRect();
    if (place) moveStill(session, line.id, level ? (event.clientY - place.top) / size : (event.clientX - place.left) / size);
  };
  const press = (event: React.KeyboardEvent) => {
    const way = level ? { ArrowUp: -1, ArrowDown: 1 }[event.key] : { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (event.key === "Delete" || event.key === "Backspace") removeStill(session, line.id);
    else if (way) moveStill(session, line.id, line.at + (way * (event.shiftKey ? 10 : 1)) / size);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <button
      type="button"
      data-controls
      data-grip
      aria-label={`Guide ${name}, ${line.way === "level" ? "level" : "vertical"}: ${words}`}
      aria-description="Arrow keys move it; Delete removes it."
      onPointerDown={drag}
      onPointerMove={lead}
      onKeyDown={press}
      style={{
        position: "absolute",
        left: 0,
        top: 0,
        transform: `translate(${level ? 0 : at[0] - GRIP / 2}px, ${level ? at[1] - GRIP / 2 : UNDER_VIEW}px)`,
        minWidth: GRIP,
        height: GRIP,
        padding: 0,
        background: "none",
        cursor: level ? "ns-resize" : "ew-resize",
        touchAction: "none",
        display: "flex",
        alignItems: "center",
      }}
    >
      <span
        style={{
          margin: 6,
          padding: "0 6px",
          minWidth: 22,
          lineHeight: "22px",
          borderRadius: 4,
          background: INK,
          color: LIGHT,
          fontSize: 12,
          whiteSpace: "nowrap",
        }}
      >
        <strong>{name}</strong>
      </span>
    </button>
  );
}

/** Below the words over the stage. */
const UNDER_VIEW = 40;

/** Ask what the picture does under the still lines once both rest. */
function useUnder(still: Still[], stage: Size, view: View) {
  const session = useSession();
  const photo = useKnown((state) => state.bench?.photo.id);
  const corrected = useDesk((desk) => desk.shown === "corrected");
  const map = useKnown((known) => (corrected ? shownNow(known)?.map : null));
  useEffect(() => {
    if (!photo || !map || !still.length || !stage.width) return;
    let stopped = false;
    const wait = setTimeout(() => {
      const recipe = recipeNow(session.known.getState());
      if (!recipe) return;
      const lines = still.map((line) => {
        const [a, b] = endsOf(line, stage);
        const on = (end: Point): [number, number] => [...fromStage(view, stage, end)];
        return { runs: line.way, ends: [on(a), on(b)] as [[number, number], [number, number]] };
      });
      api.under(photo, recipe, lines).then(
        (words) => {
          if (!stopped) session.desk.setState({ under: Object.fromEntries(still.map((line, at) => [line.id, words[at] ?? ""])) });
        },
        () => undefined,
      );
    }, RESTS_MS);
    return () => {
      stopped = true;
      clearTimeout(wait);
    };
  }, [session, photo, map, still, stage, view]);
}
