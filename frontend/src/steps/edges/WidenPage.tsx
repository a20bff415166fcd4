import { useState } from "react";

import type { Action, Recipe } from "../../api/client";
import { useSession } from "../../session/useSession";
import { NumberField } from "../../parts/NumberField";
import { noticed, percent } from "../../session/shares";
import { Touch } from "../../parts/Touch";
import { Aside, Columns, Figure, Heading } from "../../parts/Words";
import { Told, useFraming } from "../useFraming";
import { TakesPanel } from "./TakesPanel";
import type { Seen } from "../../session/model";

const RATIOS = ["16:9", "2:1", "3:2", "4:3", "1:1", "4:5"] as const;

type Side = NonNullable<Extract<Action, { do: "widen" }>["side"]>;

const SIDES: { side: Side; label: string }[] = [
  { side: "left", label: "Left" },
  { side: "both", label: "Both sides" },
  { side: "right", label: "Right" },
  { side: "top", label: "Above" },
  { side: "bottom", label: "Below" },
];

const STRIPS = [1, 2, 3, 4] as const;

/** More room than the picture has: another ratio, or a piece on one side; what is new is filled. */
export function WidenPage({ recipe, read }: { recipe: Recipe; read: Seen }) {
  const session = useSession();
  const { ask, told } = useFraming();
  const [side, setSide] = useState<Side>("both");
  const [room, setRoom] = useState(10);
  const { mode, strips } = recipe.edges;
  const empty = noticed(read.frame.empty);
  const widen = (ratio: string | null) => void ask({ do: "widen", ratio, side, room: room / 100 });
  return (
    <>
      <Heading first beside={empty ? <Figure>{percent(read.frame.empty)} new</Figure> : "nothing new"}>
        Room beyond the picture
      </Heading>
      <Columns gridTemplateColumns="repeat(6, 1fr)" role="group" aria-label="Where the room is given">
        {SIDES.map((one, at) => (
          <Touch key={one.side} gridColumn={at < 3 ? "span 2" : "span 3"} aria-pressed={side === one.side} onClick={() => setSide(one.side)}>
            {one.label}
          </Touch>
        ))}
      </Columns>
      <Heading>Until it has the ratio</Heading>
      <Columns gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label="Widen to a ratio">
        {RATIOS.map((ratio) => (
          <Touch key={ratio} aria-pressed={recipe.frame.ratio === ratio && empty} onClick={() => widen(ratio)}>
            {ratio}
          </Touch>
        ))}
      </Columns>
      <Heading>Or by a piece</Heading>
      <NumberField label="Of its width or height" unit="%" least={1} most={100} value={room} onAccept={setRoom} />
      <Touch mt="6px" w="100%" onClick={() => widen(null)}>
        Add this room
      </Touch>
      <Aside>Or take a side of the frame on the picture and draw it out.</Aside>
      <Told told={told} />
      {mode === "fill" && empty && (
        <>
          <Heading beside={strips === 1 ? "at once" : `in ${strips} strips`}>Filled</Heading>
          <Columns gridTemplateColumns="repeat(4, 1fr)" role="group" aria-label="In how many strips it is filled">
            {STRIPS.map((count) => (
              <Touch
                key={count}
                aria-pressed={strips === count}
                onClick={() => strips !== count && void session.do({ do: "strips", strips: count })}
              >
                {count === 1 ? "At once" : count}
              </Touch>
            ))}
          </Columns>
          <Aside>In strips the new area grows from the picture outwards, each strip from all before it.</Aside>
          <div>
            <TakesPanel recipe={recipe} read={read} />
          </div>
        </>
      )}
    </>
  );
}
