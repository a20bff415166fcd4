import { Box, chakra, Flex } from "@chakra-ui/react";
import { memo } from "react";

import { Brand } from "../parts/Brand";
import { useProfiles } from "../api/useProfiles";
import { Touch } from "../parts/Touch";
import { readNow, step as goStep, type StepName, useBench } from "../session/benchStore";

/** The five steps as a line that one walks along, each with a true word on its state. */
export const Route = memo(function Route({ onKeys }: { onKeys: () => void }) {
  const bench = useBench((state) => state.bench);
  const step = useBench((state) => state.step);
  const log = useBench((state) => state.log);
  const lens = useLensWords();
  const lines = useBench((state) => readNow(state)?.route.lines);
  const frame = useBench((state) => readNow(state)?.route.frame);
  const edges = useBench((state) => readNow(state)?.route.edges);
  return (
    <Flex
      as="header"
      minH="64px"
      flex="none"
      px="16px"
      gap="12px"
      align="center"
      justify="space-between"
      borderBottom="1px solid"
      borderColor="rule"
      css={{ "@media (max-width: 1099px)": { flexWrap: "wrap", paddingBlock: "6px" } }}
    >
      <Box w="276px" flex="none">
        <Brand home>{bench?.photo.title ?? ""}</Brand>
      </Box>
      <Flex as="nav" aria-label="Steps" align="center" gap="0" flex="1" maxW="640px" minW="430px" justify="space-between">
        <StepMark name="lens" label="Lens" words={lens} now={step} />
        <Rule />
        <StepMark name="lines" label="Lines" words={lines} now={step} />
        <Rule />
        <StepMark name="frame" label="Frame" words={frame} now={step} />
        <Rule />
        <StepMark name="edges" label="Edges" words={edges} now={step} />
        <Rule />
        <Touch
          aria-pressed={step === "export"}
          border="2px solid"
          borderColor="ink"
          fontWeight={700}
          onClick={() => useBench.setState({ step: "export", log: false, marking: false, shown: "corrected" })}
        >
          Export
        </Touch>
      </Flex>
      <Flex gap="6px" flex="none">
        <Touch disabled={!bench?.can_undo} onClick={() => void goStep("undo")}>
          Undo
        </Touch>
        <Touch disabled={!bench?.can_redo} onClick={() => void goStep("redo")}>
          Redo
        </Touch>
        <Touch aria-pressed={log} onClick={() => useBench.setState({ log: !log, marking: false })}>
          Log
        </Touch>
        <Touch onClick={onKeys}>Keys</Touch>
      </Flex>
    </Flex>
  );
});

/** The word on the lens; that no profile was found is only told where nothing else takes the bending out. */
function useLensWords(): string | undefined {
  const words = useBench((state) => readNow(state)?.route.lens);
  const source = useBench((state) => readNow(state)?.lens.source);
  const profiles = useProfiles("");
  return source === "none" && profiles.data?.reason ? "no profile found" : words;
}

const StepButton = chakra("button", {
  base: { px: "8px", minH: "52px", alignSelf: "flex-start", minW: "64px", textAlign: "center", cursor: "pointer", whiteSpace: "nowrap", borderRadius: "4px" },
});

function Rule() {
  return <Box aria-hidden="true" flex="1" h="2px" bg="rule" minW="8px" alignSelf="flex-start" mt="7px" />;
}

function Dot({ here }: { here?: boolean }) {
  const size = here ? "14px" : "10px";
  return (
    <Flex as="span" h="16px" align="center" justify="center" aria-hidden="true">
      <Box
        as="span"
        w={size}
        h={size}
        borderRadius="full"
        border="2px solid"
        borderColor="ink"
        bg={here ? "here" : "touch"}
      />
    </Flex>
  );
}

function StepMark({ name, label, words, now }: { name: StepName; label: string; words?: string; now: StepName }) {
  const here = name === now;
  return (
    <StepButton
      aria-current={here ? "step" : undefined}
      onClick={() =>
        useBench.setState({ step: name, selected: null, log: false, marking: false, ...((name === "frame" || name === "edges") && { shown: "corrected" as const }) })
      }
    >
      <Dot here={here} />
      <Box as="span" display="inline-block" fontWeight={700} borderBottom="2px solid" borderColor={here ? "here" : "transparent"}>
        {label}
      </Box>
      <Box as="span" display="block" fontSize="12px" color="second" minH="16px" maxW="150px" overflow="hidden" textOverflow="ellipsis" title={words}>
        {words ?? ""}
      </Box>
    </StepButton>
  );
}
