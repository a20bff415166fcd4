import { Box, chakra, Flex } from "@chakra-ui/react";
import { memo } from "react";

import { Brand } from "../parts/Brand";
import type { Place } from "../api/client";
import { useProfiles } from "../api/queries";
import { goTo } from "../parts/path";
import { goToStep } from "../session/desk";
import type { StepName } from "../session/model";
import { Touch } from "../parts/Touch";
import { type Known, readNow } from "../session/session";
import { Live } from "../stage/Live";
import { useDesk, useKnown, useSession } from "../session/useSession";

/** The five steps as a line that one walks along, each with a true word on its state. */
export const Route = memo(function Route({ onKeys, neighbours }: { onKeys: () => void; neighbours: Place }) {
  const session = useSession();
  const title = useKnown((state) => state.bench?.photo.title ?? "");
  const canUndo = useKnown((state) => state.bench?.can_undo ?? false);
  const canRedo = useKnown((state) => state.bench?.can_redo ?? false);
  const step = useDesk((state) => state.step);
  const log = useDesk((state) => state.log);
  const lens = useLensWords();
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
        <Brand home>{title}</Brand>
      </Box>
      <Flex as="nav" aria-label="Steps" align="center" gap="0" flex="1" maxW="640px" minW="430px" justify="space-between">
        <StepMark name="lens" label="Lens" words={() => lens} now={step} />
        <Rule />
        <StepMark name="lines" label="Lines" words={(known) => readNow(known)?.route.lines} now={step} />
        <Rule />
        <StepMark name="frame" label="Frame" words={(known) => readNow(known)?.route.frame} now={step} />
        <Rule />
        <StepMark name="edges" label="Edges" words={(known) => readNow(known)?.route.edges} now={step} />
        <Rule />
        <Touch
          aria-pressed={step === "export"}
          border="2px solid"
          borderColor="ink"
          fontWeight={700}
          onClick={() => goToStep(session, "export")}
        >
          Export
        </Touch>
      </Flex>
      <Flex gap="6px" flex="none">
        <Touch px="8px" disabled={neighbours.before === null} aria-label="Previous photo" onClick={() => goTo(`/photos/${neighbours.before}`)}>
          ‹
        </Touch>
        <Box alignSelf="center" fontSize="0.8rem" color="second" whiteSpace="nowrap">
          {neighbours.total ? `${neighbours.place} of ${neighbours.total}` : ""}
        </Box>
        <Touch px="8px" disabled={neighbours.after === null} aria-label="Next photo" onClick={() => goTo(`/photos/${neighbours.after}`)}>
          ›
        </Touch>
        <Touch disabled={!canUndo} onClick={() => void session.step("undo")}>
          Undo
        </Touch>
        <Touch disabled={!canRedo} onClick={() => void session.step("redo")}>
          Redo
        </Touch>
        <Touch aria-pressed={log} onClick={() => session.desk.setState({ log: !log, marking: false })}>
          Log
        </Touch>
        <Touch onClick={onKeys}>Keys</Touch>
      </Flex>
    </Flex>
  );
});

/** The word on the lens; that no profile was found is only told where nothing else takes the bending out. */
function useLensWords(): string | undefined {
  const words = useKnown((state) => readNow(state)?.route.lens);
  const source = useKnown((state) => readNow(state)?.lens.source);
  const profiles = useProfiles(useSession().photo, "");
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

function StepMark({ name, label, words, now }: { name: StepName; label: string; words: (known: Known) => string | undefined; now: StepName }) {
  const session = useSession();
  const here = name === now;
  return (
    <StepButton
      aria-current={here ? "step" : undefined}
      onClick={() => goToStep(session, name)}
    >
      <Dot here={here} />
      <Box as="span" display="inline-block" fontWeight={700} borderBottom="2px solid" borderColor={here ? "here" : "transparent"}>
        {label}
      </Box>
      <Live className="step-word" titled of={words} />
    </StepButton>
  );
}
