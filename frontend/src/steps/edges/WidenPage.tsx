import { useState } from "react";

import type { Action, Recipe } from "../../api/client";
import { useSession } from "../../session/useSession";
import { NumberField } from "../../parts/NumberField";
import { noticed, percent } from "../../session/shares";
import { Touch } from "../../parts/Touch";
import { Aside, Columns, Figure, Heading } from "../../parts/Words";
import { Refusal, useFraming } from "../useFraming";
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
  const ask = useFraming();
  const [side, setSide] = useState<Side>("both");
  const [room, setRoom] = useState(10);
  const { mode, strips } = recipe.edges;
  const empty = noticed(read.frame.empty);
  const widen = (ratio: string | null) => ask({ do: "widen", ratio, side, room: room / 100 });
  return (
    <>
      <Heading first beside={empty ? <Figure>{percent(read.frame.empty)} new</Figure> : "no new pixels"}>
        Extend the frame
      </Heading>
      <Columns gridTemplateColumns="repeat(5, auto)" role="group" aria-label="Which side to extend">
        {SIDES.map((one) => (
          <Touch key={one.side} aria-pressed={side === one.side} onClick={() => setSide(one.side)}>
            {one.label}
          </Touch>
        ))}
      </Columns>
      <Heading>To an aspect ratio</Heading>
      <Columns gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label="Extend to an aspect ratio">
        {RATIOS.map((ratio) => (
          <Touch key={ratio} aria-pressed={recipe.frame.ratio === ratio && empty} onClick={() => widen(ratio)}>
            {ratio}
          </Touch>
        ))}
      </Columns>
      <Heading>Or by a fixed amount</Heading>
      <div className="row" style={{ alignItems: "center", gap: 8 }}>
        <div style={{ flex: 1 }}>
          <NumberField label="Amount (of the frame's width or height)" unit="%" least={1} most={100} value={room} onAccept={setRoom} />
        </div>
        <Touch aria-label="Extend by this amount" onClick={() => widen(null)}>
          Extend
        </Touch>
      </div>
      <Aside>Or drag an edge of the frame on the picture outwards.</Aside>
      <Refusal />
      {mode === "fill" && empty && (
        <>
          <Heading beside={strips === 1 ? "in one go" : `in ${strips} strips`}>How to fill it</Heading>
          <Columns
            gridTemplateColumns="repeat(4, 1fr)"
            role="group"
            aria-label="Number of strips"
            title="In strips the new area grows outwards from the picture, each strip from the ones before it."
          >
            {STRIPS.map((count) => (
              <Touch
                key={count}
                aria-pressed={strips === count}
                onClick={() => strips !== count && void session.do({ do: "strips", strips: count })}
              >
                {count === 1 ? "In one go" : `${count} strips`}
              </Touch>
            ))}
          </Columns>
          <div>
            <TakesPanel recipe={recipe} read={read} />
          </div>
        </>
      )}
    </>
  );
}
