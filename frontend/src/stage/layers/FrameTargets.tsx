import type { Session } from "../../session/session";
import { setFrame, HANDLES, handleAt, roomNow } from "../tools/frameTool";
import { moveFrame, type Rect, resizeFrame } from "../tools/frameGeometry";
import { arrowStep } from "../tools/hands";
import type { Point } from "../../session/mesh";

interface Props {
  onStage: Rect;
  frame: Rect;
  session: Session;
}

/** The frame as focusable elements: the whole, and every corner and side. The pointer is handled by the stage. */
export function FrameTargets({ onStage, frame, session }: Props) {
  const press = (event: React.KeyboardEvent, side: Point | null) => {
    const move = arrowStep(event);
    if (!move) return;
    event.preventDefault();
    event.stopPropagation();
    const now = roomNow(session);
    if (!now) return;
    const rect = side ? resizeFrame(frame, side, move[0], move[1], now.ratio, now.room) : moveFrame(frame, move[0], move[1], now.room);
    session.doSoon(setFrame(session, rect), true);
  };
  const [x, y, width, height] = onStage;
  const style = { position: "absolute", left: 0, top: 0, background: "none", pointerEvents: "none" } as const;
  return (
    <>
      <button
        type="button"
        aria-label={`Crop frame, ${frame[2]} by ${frame[3]} pixels`}
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
            aria-label={`Crop frame, ${name}`}
            aria-description="Arrow keys resize it"
            onKeyDown={(event) => press(event, side)}
            style={{ ...style, width: 40, height: 40, transform: `translate(${place[0] - 20}px, ${place[1] - 20}px)` }}
          />
        );
      })}
    </>
  );
}
