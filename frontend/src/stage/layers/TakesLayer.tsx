import { type Laid } from "../../session/takes";
import { laidAt, type Size, toStage, type View } from "../view/view";

/** Pixels by which the server lets a patch reach under the picture. */
const MARGIN = 4;

interface Props {
  laid: Laid[];
  frame: { x: number; y: number; width: number; height: number };
  view: View;
  stage: Size;
}

/** New pixels, laid under the picture into the frame's empty parts. */
export function TakesLayer({ laid, frame, view, stage }: Props) {
  const [[left, top], [right, bottom]] = [toStage(view, stage, [frame.x, frame.y]), toStage(view, stage, [frame.x + frame.width, frame.y + frame.height])];
  const inside = `inset(${top}px ${stage.width - right}px ${stage.height - bottom}px ${left}px)`;
  return (
    <div aria-hidden="true" data-takes={laid.length} style={{ position: "absolute", inset: 0, clipPath: inside }}>
      {laid.map(({ part, box, source, reduced }) => {
        // The first look begins with the whole cell of its own that the box begins in.
        const begin = (value: number) => (source.includes("first-look") ? Math.floor(value / reduced) * reduced : value) - MARGIN * reduced;
        const at = toStage(view, stage, [frame.x + begin(box[0]), frame.y + begin(box[1])]);
        return (
          <img
            key={part}
            src={source}
            alt=""
            draggable={false}
            style={laidAt(at, reduced, view)}
          />
        );
      })}
    </div>
  );
}
