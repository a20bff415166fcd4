import { useEffect } from "react";

import { type Action, cornerAfter, type EdgeChoice, type Edges, type Recipe } from "../../api/client";
import { baseNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { NumberField } from "../../parts/NumberField";
import { useEdges } from "../../api/queries";
import { noticed, percent } from "../../session/shares";
import { Touch } from "../../parts/Touch";
import { Aside, Columns, Figure, Heading } from "../../parts/Words";
import { Refusal, useFraming } from "../useFraming";
import { Colours } from "./Colours";
import { HintField } from "./HintField";
import { Small } from "./Small";
import { TakesPanel } from "./TakesPanel";
import type { Seen } from "../../session/model";

type Ask = ReturnType<typeof useFraming>;

const edges = (ask: Omit<Extract<Action, { do: "edges" }>, "do">): Action => ({ do: "edges", ...ask });

const WORDS = { trim: "Crop", fill: "Fill", reshape: "Reshape", leave: "Leave empty" } as const;

/** What becomes of the empty corners: each way with its cost, a word on which suits; how far the frame reaches; takes. */
export function CornersPage({ recipe, read }: { recipe: Recipe; read: Seen }) {
  const session = useSession();
  const ask = useFraming();
  const kept = useKnown(baseNow);
  // What is on its way to the server may come back with more in it.
  const arrived = useKnown((state) => state.kept === null);
  const { edges: all, asking } = useEdges(arrived ? kept : null);
  const choices = all?.choices ?? [];
  const { mode, colour } = recipe.edges;
  const refusal = choices.find((one) => one.refused)?.refused;
  const empty = noticed(read.frame.empty);
  return (
    <>
      <Heading first beside={empty ? <Figure>{percent(read.frame.empty)} of the frame</Figure> : "none in the frame"}>
        Empty corners
      </Heading>
      <Cards choices={choices} asking={asking} suits={all?.suits ?? null} empty={empty || mode === "reshape"} ask={ask} />
      {refusal && <Aside>{refusal}</Aside>}
      {all?.words && <Aside data-suits={all.suits}>{all.words}</Aside>}
      <Refusal />
      {mode === "reshape" && all && <ReshapePanel choices={choices} hurts={all.hurts_from} heat={all.heat} />}
      {mode !== "trim" && empty && <Reach mode={mode === "leave" ? "leave" : "fill"} recipe={recipe} read={read} ask={ask} />}
      {mode === "leave" && empty && <Colours colour={colour} onTake={(wanted) => ask(edges({ mode: "leave", colour: wanted }))} />}
      {mode === "fill" && empty && (
        <>
          <HintField hint={recipe.edges.hint} named="The corners" onKeep={(hint) => void session.do({ do: "hint", hint })} />
          <TakesPanel recipe={recipe} read={read} />
        </>
      )}
      {mode === "trim" && empty && <Aside>The frame reaches beyond the picture. The empty corners will be white in the exported file.</Aside>}
    </>
  );
}

function costOf(choice: EdgeChoice): string {
  if (choice.mode === "trim") return `keeps ${percent(choice.kept)}`;
  if (choice.mode === "reshape") return choice.stretch === null ? "not possible" : `stretched by up to ${percent(choice.stretch)}`;
  return `${percent(choice.empty)} ${choice.mode === "fill" ? "new" : "empty"}`;
}

/** The four ways side by side: a small picture of each, and what it costs. */
function Cards({ choices, asking, suits, empty, ask }: { choices: EdgeChoice[]; asking: boolean; suits: string | null; empty: boolean; ask: Ask }) {
  const photo = useKnown((state) => state.bench?.photo);
  return (
    <Columns gridTemplateColumns="repeat(2, 1fr)" role="group" aria-label="What to do with empty corners">
      {(["trim", "fill", "reshape", "leave"] as const).map((mode) => {
        const choice = choices.find((one) => one.mode === mode);
        const refused = choice?.refused ?? null;
        return (
          <Touch
            key={mode}
            flexDirection="column"
            gap="2px"
            py="6px"
            aria-pressed={choice?.chosen ?? false}
            disabled={refused !== null}
            onClick={() => !choice?.chosen && ask(edges({ mode }))}
          >
            <div style={{ height: 78, display: "flex", alignItems: "center" }}>
              {photo?.revision && !refused && (choice || mode !== "reshape") && <Small source={cornerAfter(photo.id, photo.revision, edges({ mode }))} height={78} />}
            </div>
            <span>
              {WORDS[mode]}
              {suits === mode && <span style={{ fontWeight: 400 }}> · suggested</span>}
            </span>
            <span style={{ fontSize: "0.75rem", fontWeight: 400, color: "var(--chakra-colors-second)", minHeight: 16 }}>
              {choice ? costOf(choice) : asking && "Calculating…"}
            </span>
          </Touch>
        );
      })}
      {!empty && (
        <Aside gridColumn="1 / -1" mt="0">
          No corner is empty now. Fill and Leave empty enlarge the frame to the photo's own size.
        </Aside>
      )}
    </Columns>
  );
}

interface ReachProps {
  mode: "fill" | "leave";
  recipe: Recipe;
  read: Seen;
  ask: Ask;
}

/** How much of the frame may be empty at most. */
function Reach({ mode, recipe, read, ask }: ReachProps) {
  const { colour } = recipe.edges;
  return (
    <NumberField
      label="Empty area, at most"
      unit="%"
      least={0}
      most={60}
      digits={1}
      value={100 * read.frame.empty}
      onAccept={(share) => ask(edges({ mode, extent: "at most", share: share / 100, colour }))}
    />
  );
}

interface ReshapeProps {
  choices: EdgeChoice[];
  hurts: number | null;
  heat: Edges["heat"];
}

/** How much the picture is stretched, where, and from which angle on that would hurt. */
function ReshapePanel({ choices, hurts, heat }: ReshapeProps) {
  const session = useSession();
  const shown = useDesk((state) => state.heat !== null);
  const stretch = choices.find(({ mode }) => mode === "reshape")?.stretch ?? null;
  useEffect(() => {
    if (session.desk.getState().heat) session.desk.setState({ heat });
  }, [session, heat]);
  useEffect(() => () => session.desk.setState({ heat: null }), [session]);
  return (
    <>
      <Heading beside={stretch !== null && <Figure>up to {percent(stretch)}</Figure>}>Stretching</Heading>
      <Touch w="100%" aria-pressed={shown} onClick={() => session.desk.setState({ heat: shown ? null : heat })}>
        Show where it is stretched
      </Touch>
      <Aside>
        {shown && "Uncoloured: unchanged. The redder, the more stretched. "}
        Your lines come out straight; the rest follows as closely as possible. {hurts !== null && `In this picture it starts to show at about ${hurts.toFixed(1)}°, where some parts are stretched by more than 20%.`}
      </Aside>
    </>
  );
}
