import { around } from "../../session/around";
import { useState } from "react";

import type { Recipe } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { useSession } from "../../session/useSession";
import { moveFrame, type Rect, resizeFrame } from "../../stage/tools/frameGeometry";
import { NumberField } from "../../parts/NumberField";
import { Aside, Heading } from "../../parts/Words";
import type { Seen } from "../../session/model";

const [LEFT, RIGHT] = LIMITS["frame.rect.0"];
const [SMALLEST, LARGEST] = LIMITS["frame.rect.2"];

/** Where the frame lies and how large it is, typed in corrected pixels; the top left corner stays while it is resized. */
export function PlaceAndSize({ recipe, read }: { recipe: Recipe; read: Seen }) {
  const session = useSession();
  const [short, setShort] = useState(false);
  const { frame, outline } = read;
  const rect: Rect = recipe.frame.rect ?? [frame.x, frame.y, frame.width, frame.height];
  const room = { outline, allowEmpty: recipe.frame.allow_empty };
  const take = (next: Rect, reached: boolean) => {
    setShort(!reached);
    if (next.some((value, at) => Math.abs(value - around(rect, at)) > 1e-6)) void session.do({ do: "frame", rect: [...next] });
  };
  const move = (dx: number, dy: number) => {
    const next = moveFrame(rect, dx, dy, room);
    take(next, Math.hypot(next[0] - rect[0] - dx, next[1] - rect[1] - dy) < 1);
  };
  const resize = (width: number, height: number) => {
    const { shape } = frame;
    const byWidth = width !== rect[2];
    const [dx, dy] =
      shape === null
        ? [width - rect[2], height - rect[3]]
        : byWidth
          ? [width - rect[2], width / shape - rect[3]]
          : [height * shape - rect[2], height - rect[3]];
    const next = resizeFrame(rect, [1, 1], dx, dy, shape, room);
    take(next, byWidth ? Math.abs(next[2] - width) <= 1 : Math.abs(next[3] - height) <= 1);
  };
  return (
    <>
      <Heading beside="or use the arrow keys">Position and size</Heading>
      <NumberField label="From the left" unit="px" digits={1} least={LEFT} most={RIGHT} value={rect[0]} onAccept={(to) => move(to - rect[0], 0)} />
      <NumberField label="From the top" unit="px" digits={1} least={LEFT} most={RIGHT} value={rect[1]} onAccept={(to) => move(0, to - rect[1])} />
      <NumberField label="Width" unit="px" least={SMALLEST} most={LARGEST} value={rect[2]} onAccept={(to) => resize(to, rect[3])} />
      <NumberField label="Height" unit="px" least={SMALLEST} most={LARGEST} value={rect[3]} onAccept={(to) => resize(rect[2], to)} />
      {short && (
        <Aside role="status">The picture ends here: this is as far as the frame can go without an empty corner.</Aside>
      )}
    </>
  );
}
