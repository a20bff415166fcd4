import type { Over } from "../../session/touchUps";
import { laidAt, type Size, toStage, type View } from "../view/view";

interface Props {
  over: Over[];
  frame: { x: number; y: number };
  view: View;
  stage: Size;
}

/** Touch-ups that are made, laid over the picture. */
export function TouchLayer({ over, frame, view, stage }: Props) {
  return (
    <div aria-hidden="true" data-touched={over.length} style={{ position: "absolute", inset: 0, overflow: "hidden", pointerEvents: "none" }}>
      {over.map(({ id, box, source, reduced, amount }) => {
        const at = toStage(view, stage, [frame.x + box[0], frame.y + box[1]]);
        return (
          <img
            key={id}
            src={source}
            alt=""
            draggable={false}
            style={{ ...laidAt(at, reduced, view), opacity: amount }}
          />
        );
      })}
    </div>
  );
}
