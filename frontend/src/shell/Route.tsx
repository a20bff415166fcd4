import { Box, Flex } from "@chakra-ui/react";
import { memo, useCallback } from "react";

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
      wrap="wrap"
    >
      <Box w="17.25rem" maxW="100%" flex="none">
        <Brand home>{title}</Brand>
      </Box>
      <Flex as="nav" aria-label="Steps" align="center" gap="0" flex="1" maxW="640px" minW="min(26.9rem, 100%)" justify="space-between">
        <StepMark name="lens" label="Lens" words={lens} />
        <div className="step-rule" aria-hidden="true" />
        <StepMark name="lines" label="Lines" words={ROUTE_WORDS.lines} />
        <div className="step-rule" aria-hidden="true" />
        <StepMark name="frame" label="Crop" words={ROUTE_WORDS.frame} />
        <div className="step-rule" aria-hidden="true" />
        <StepMark name="edges" label="Edges" words={ROUTE_WORDS.edges} />
        <div className="step-rule" aria-hidden="true" />
        <ExportMark />
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
        <LogMark />
        <Touch onClick={onKeys}>Shortcuts</Touch>
      </Flex>
    </Flex>
  );
});

/** The word on the lens; that no profile was found is only told where nothing else takes the bending out. */
function useLensWords(): (known: Known) => string | undefined {
  const { data } = useProfiles(useSession().photo, "");
  const reason = data?.reason;
  return useCallback(
    (known) => (readNow(known)?.lens.source === "none" && reason ? "no lens profile found" : readNow(known)?.route.lens),
    [reason],
  );
}

/** One step: a dot, its name, a true word on its state. */
const StepMark = memo(function StepMark({ name, label, words }: { name: StepName; label: string; words: (known: Known) => string | undefined }) {
  const session = useSession();
  const here = useDesk((desk) => desk.step === name);
  return (
    <button type="button" className="step" aria-current={here ? "step" : undefined} onClick={() => goToStep(session, name)}>
      <span className="step-dot" aria-hidden="true" />
      <span className="step-name">{label}</span>
      <Live className="step-word" titled of={words} />
    </button>
  );
});

function ExportMark() {
  const session = useSession();
  const here = useDesk((desk) => desk.step === "export");
  return (
    <Touch aria-pressed={here} border="2px solid" borderColor="ink" fontWeight={700} onClick={() => goToStep(session, "export")}>
      Export
    </Touch>
  );
}

function LogMark() {
  const { desk } = useSession();
  const open = useDesk(({ log }) => log);
  return (
    <Touch aria-pressed={open} onClick={() => desk.setState({ log: !open, marking: false })}>
      History
    </Touch>
  );
}

const ROUTE_WORDS = {
  lines: (known: Known) => readNow(known)?.route.lines,
  frame: (known: Known) => readNow(known)?.route.frame,
  edges: (known: Known) => readNow(known)?.route.edges,
};
