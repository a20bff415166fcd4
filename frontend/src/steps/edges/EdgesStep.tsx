import { Box } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";

import { api, type EdgeChoice, type FrameAsk, type Recipe } from "../../api/client";
import { baseNow, readNow, recipeNow, type Seen, useBench } from "../../bench/benchStore";
import { NumberField } from "../../NumberField";
import { noticed, percent } from "../../shares";
import { Touch } from "../../Touch";
import { Aside, Columns, Figure, Heading } from "../../Words";
import { Told, useFraming } from "../frame/useFraming";
import { Colours } from "./Colours";
import { Small } from "./Small";
import { TakesPanel } from "./TakesPanel";

type Ask = ReturnType<typeof useFraming>["ask"];

type Edges = Extract<FrameAsk, { do: "edges" }>;

const edges = (ask: Pick<Edges, "mode"> & Partial<Edges>): Edges => ({ do: "edges", extent: "as it is", share: null, colour: null, ...ask });

const WORDS = { trim: "Trim", fill: "Fill", leave: "Leave" } as const;

/** What becomes of the empty corners: trimmed, filled or left, each with its cost; how far the frame reaches; takes. */
export function EdgesStep() {
  const recipe = useDeferredValue(useBench(recipeNow));
  const read = useDeferredValue(useBench(readNow));
  const { ask, told } = useFraming();
  const choices = useChoices();
  if (!recipe || !read) return null;
  const { mode, colour } = recipe.edges;
  const empty = noticed(read.frame.empty);
  return (
    <Box px="16px" py="12px" overflowY="auto" flex="1" minH={0} data-edges={mode}>
      <Heading first beside={empty ? <Figure>{percent(read.frame.empty)} of the frame</Figure> : "none in the frame"}>
        Empty corners
      </Heading>
      <Cards choices={choices} empty={empty} ask={ask} />
      <Told told={told} />
      {mode !== "trim" && empty && <Reach choices={choices} mode={mode === "leave" ? "leave" : "fill"} recipe={recipe} read={read} ask={ask} />}
      {mode === "leave" && empty && <Colours colour={colour} onTake={(wanted) => void ask(edges({ mode: "leave", colour: wanted }))} />}
      {mode === "fill" && empty && <TakesPanel recipe={recipe} read={read} />}
      {mode === "trim" && empty && <Aside>The frame reaches beyond the picture: what is empty is exported white.</Aside>}
    </Box>
  );
}

/** What each way costs for the recipe that is kept. */
function useChoices(): EdgeChoice[] {
  const recipe = useBench(baseNow);
  const { data } = useQuery({
    queryKey: ["edges", JSON.stringify(recipe)],
    queryFn: () => api.edges(recipe!),
    enabled: recipe !== null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
  return data ?? [];
}

/** Trim, fill and leave side by side: a small picture of each, and what it costs. */
function Cards({ choices, empty, ask }: { choices: EdgeChoice[]; empty: boolean; ask: Ask }) {
  const photo = useBench((state) => state.bench?.photo);
  return (
    <Columns gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label="Ways with empty corners">
      {(["trim", "fill", "leave"] as const).map((mode) => {
        const choice = choices.find((one) => one.mode === mode);
        const cost = choice && (mode === "trim" ? `keeps ${percent(choice.kept)}` : `${percent(choice.empty)} ${mode === "fill" ? "new" : "empty"}`);
        return (
          <Touch
            key={mode}
            flexDirection="column"
            gap="2px"
            py="6px"
            aria-pressed={choice?.chosen ?? false}
            onClick={() => !choice?.chosen && void ask(edges({ mode }))}
          >
            <Box h="62px" display="flex" alignItems="center">
              {photo && <Small source={`/api/photos/${photo.id}/edges/${photo.revision}/${mode}.jpg`} height={62} />}
            </Box>
            <span>{WORDS[mode]}</span>
            <Box as="span" fontSize="12px" fontWeight={400} color="second" minH="16px">
              {cost}
            </Box>
          </Touch>
        );
      })}
      {!empty && (
        <Aside gridColumn="1 / -1" mt="0">
          The frame holds no empty corner now. Fill and Leave widen it to the size it had before it was turned.
        </Aside>
      )}
    </Columns>
  );
}

interface ReachProps {
  choices: EdgeChoice[];
  mode: "fill" | "leave";
  recipe: Recipe;
  read: Seen;
  ask: Ask;
}

const REACHES = { "same size": "Same size", "nothing cut": "Nothing cut" } as const;

/** How far the frame reaches beyond the picture: what is kept against what is empty. */
function Reach({ choices, mode, recipe, read, ask }: ReachProps) {
  const { colour } = recipe.edges;
  return (
    <>
      <Heading beside={<>keeps {percent(read.frame.kept)}</>}>How far it reaches</Heading>
      <Columns gridTemplateColumns="repeat(2, 1fr)" role="group" aria-label="How far the frame reaches">
        {(["same size", "nothing cut"] as const).map((extent) => {
          const choice = choices.find((one) => one.extent === extent);
          return (
            <Touch
              key={extent}
              flexDirection="column"
              gap="0"
              py="5px"
              aria-pressed={choice?.chosen ?? false}
              onClick={() => !choice?.chosen && void ask(edges({ mode, extent, colour }))}
            >
              <span>{REACHES[extent]}</span>
              <Box as="span" fontSize="12px" fontWeight={400} color="second" minH="32px" whiteSpace="pre">
                {choice ? `keeps ${percent(choice.kept)}\n${percent(choice.empty)} ${mode === "fill" ? "new" : "empty"}` : ""}
              </Box>
            </Touch>
          );
        })}
      </Columns>
      <NumberField
        key={read.frame.empty}
        label="Trim to at most … empty"
        unit="%"
        least={0}
        most={60}
        digits={1}
        value={100 * read.frame.empty}
        onAccept={(share) => void ask(edges({ mode, extent: "at most", share: share / 100, colour }))}
      />
    </>
  );
}
