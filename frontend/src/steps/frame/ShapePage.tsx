import { useQuery } from "@tanstack/react-query";
import { memo } from "react";

import { api, type Recipe } from "../../api/client";
import { useSession } from "../../session/useSession";
import { noticed, percent } from "../../session/shares";
import { Switch } from "../../parts/Switch";
import { Touch } from "../../parts/Touch";
import { TypedForm } from "../../parts/TypedForm";
import { useChange } from "../../api/useChange";
import { Aside, Columns, Figure, Heading } from "../../parts/Words";
import { Refused } from "../../parts/Refused";
import { type Known, readNow } from "../../session/session";
import { Live } from "../../stage/Live";
import { PlaceAndSize } from "./PlaceAndSize";
import { ratioWords, turned } from "./ratios";
import { Refusal, useFraming } from "../useFraming";
import { useShapes } from "../../api/queries";
import type { Seen } from "../../session/model";

interface Props {
  recipe: Recipe;
  read: Seen;
}

const sizeWords = (known: Known) => {
  const frame = readNow(known)?.frame;
  return frame && `now ${frame.ratio}, ${frame.width} × ${frame.height} px`;
};

const OWN_RATIOS = ["own-ratios"];

type Ask = ReturnType<typeof useFraming>;

/** The frame's ratio, what each way costs, where it lies, and whether it may hold empty corners. */
export const ShapePage = memo(function ShapePage({ recipe, read }: Props) {
  const ask = useFraming();
  const { ratio, allow_empty, subject, rect } = recipe.frame;
  const { frame } = read;
  return (
    <>
      <Heading first beside={<Live of={sizeWords} />}>
        Aspect ratio
      </Heading>
      <Ratios ratio={ratio} upright={frame.height > frame.width} ask={ask} />
      <WhereItLies largest={rect === null} marked={subject !== null} ask={ask} />
      <Refusal />
      <Heading beside={noticed(frame.empty) ? <Figure>{percent(frame.empty)} of the frame</Figure> : "none in the frame"}>Empty corners</Heading>
      <Permission allowed={allow_empty} ask={ask} />
      <PlaceAndSize recipe={recipe} read={read} />
    </>
  );
});

const Ratios = memo(function Ratios({ ratio, upright, ask }: { ratio: string; upright: boolean; ask: Ask }) {
  const usual = useShapes()?.ratios ?? [];
  const isUsual = usual.some((one) => one.ratio === ratio || turned(one.ratio) === ratio) || ratio === "original" || ratio === "free";
  return (
    <>
      <Columns gridTemplateColumns="repeat(4, 1fr)" role="group" aria-label="Ratio">
        <Touch aria-pressed={ratio === "original"} onClick={() => ask({ do: "ratio", ratio: "original" })}>
          Original
        </Touch>
        {usual.map((one) => (
          <Touch
            key={one.ratio}
            aria-pressed={one.ratio === ratio || turned(one.ratio) === ratio}
            onClick={() => ask({ do: "ratio", ratio: upright ? turned(one.ratio) : one.ratio })}
          >
            {one.label}
          </Touch>
        ))}
        <Touch aria-pressed={ratio === "free"} onClick={() => ask({ do: "ratio", ratio: "free" })}>
          Free
        </Touch>
        <Touch aria-pressed={upright} onClick={() => ask({ do: "swap" })}>
            Portrait
        </Touch>
      </Columns>
      <OwnRatios ratio={ratio} usual={isUsual} onTake={(wanted) => ask({ do: "ratio", ratio: wanted })} />
    </>
  );
});

const WhereItLies = memo(function WhereItLies({ largest, marked, ask }: { largest: boolean; marked: boolean; ask: Ask }) {
  const session = useSession();
  return (
    <>
      <Columns mt="10px" gridTemplateColumns="repeat(2, 1fr)" role="group" aria-label="Position of the frame">
        <Touch disabled={largest} onClick={() => void session.do({ do: "frame", rect: null })}>
          Largest that fits
        </Touch>
        <Touch onClick={() => ask({ do: "centre" })}>Centre on the photo</Touch>
        <Touch disabled={!marked} onClick={() => ask({ do: "around" })}>
          Around the subject
        </Touch>
        <Touch disabled={!marked} onClick={() => ask({ do: "place", what: "subject", across: 0.5, down: null })}>
          Centre the subject
        </Touch>
      </Columns>
      {!marked && <Aside>Mark the subject under Compose first.</Aside>}
    </>
  );
});

const Permission = memo(function Permission({ allowed, ask }: { allowed: boolean; ask: Ask }) {
  return (
    <>
      <Switch on={allowed} label="Allow empty corners" onTurn={() => ask({ do: "empty", allow: !allowed })} />
      <Aside>
        {allowed
          ? "The frame may reach beyond the picture. Choose under Edges what happens to the empty corners."
          : "The frame stops at the edge of the picture, so no corner stays empty."}
      </Aside>
    </>
  );
});

interface OwnProps {
  ratio: string;
  usual: boolean;
  onTake: (ratio: string) => void;
}

/** A ratio that is typed, and those that were kept under a name. */
function OwnRatios({ ratio, usual, onTake }: OwnProps) {
  const own = useQuery({ queryKey: OWN_RATIOS, queryFn: api.ratios }).data ?? [];
  const { change, refused } = useChange(OWN_RATIOS);
  const known = own.some((one) => one.ratio === ratio);
  const keepAs = async (name: string) => name && (await change(() => api.keepRatio(name, ratio))) && "used up";
  return (
    <>
      <TypedForm label="Custom ratio, width to height" placeholder="Custom, e.g. 13.6 × 9.9" take="Apply" most={40} onTake={(typed) => typed && onTake(typed)} />
      {own.map((one) => (
        <div className="row" key={one.id} style={{ marginTop: 6, gap: 6 }}>
          <Touch flex="1" justifyContent="space-between" fontSize="0.8125rem" aria-pressed={one.ratio === ratio} onClick={() => onTake(one.ratio)}>
            <span>{one.name}</span>
            <Figure>{ratioWords(one.ratio)}</Figure>
          </Touch>
          <Touch fontSize="0.8125rem" aria-label={`Remove ${one.name}`} onClick={() => void change(() => api.removeRatio(one.id))}>
            Remove
          </Touch>
        </div>
      ))}
      {!usual && !known && (
        <TypedForm label={`Name for ${ratioWords(ratio)}`} placeholder={`Name for ${ratioWords(ratio)}`} take="Save" most={40} onTake={keepAs} />
      )}
      <Refused words={refused} />
    </>
  );
}
