import { useSession } from "../../session/useSession";
import { HANDLES, handleAt } from "../tools/frameTool";
import { moveFrame, type Rect, resizeFrame, type Room } from "../tools/frameGeometry";
import { arrowStep } from "../tools/hands";
import type { Point } from "../../session/mesh";
import type { withRect } from "../../session/recipeEdits";

interface Props {
  onStage: Rect;
  frame: Rect;
  room: Room;
  /** width : height, null when it is free. */
  ratio: number | null;
  /** What becomes of the recipe with another frame. */
  change: typeof withRect;
}

/** The frame as focusable elements: the whole, and every corner and side. The pointer is handled by the stage. */
export function FrameTargets({ onStage, frame, room, ratio, change }: Props) {
  const session = useSession();
  const press = (event: React.KeyboardEvent, side: Point | null) => {
    const move = arrowStep(event);
    if (!move) return;
    event.preventDefault();
    event.stopPropagation();
    const rect = side ? resizeFrame(frame, side, move[0], move[1], ratio, room) : moveFrame(frame, move[0], move[1], room);
    session.keepSoon((now) => change(now, [...rect]), side ? "Resized the frame" : "Moved the frame", true);
  };
  const [x, y, width, height] = onStage;
  const style = { position: "absolute", left: 0, top: 0, background: "none", pointerEvents: "none" } as const;
  return (
    <>
      <button
        type="button"
        aria-label={`Frame, ${frame[2]} by ${frame[3]} pixels`}
        aria-description="Arrow keys move it"
        onKeyDown={(event) => press(event, null)}
        style={{ ...style, width, height, transform: `translate(${x}px, ${y}px)` }}
      />
      {HANDLES.map(({ name, side }) => {
        const place = handleAt(onStage, side);
        return (
          <button
            key={name}
            type="button"
            aria-label={`Frame, ${name}`}
            aria-description="Arrow keys resize it"
            onKeyDown={(event) => press(event, side)}
            style={{ ...style, width: 40, height: 40, transform: `translate(${place[0] - 20}px, ${place[1] - 20}px)` }}
          />
        );
      })}
    </>
  );
}
