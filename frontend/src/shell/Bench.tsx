import { Box, Flex } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type ReactElement, useCallback, useEffect, useState } from "react";

import { Notice } from "../parts/Notice";
import { EdgesStep } from "../steps/edges/EdgesStep";
import { ExportStep } from "../steps/export/ExportStep";
import { FrameStep } from "../steps/frame/FrameStep";
import { LensStep } from "../steps/lens/LensStep";
import { LinesStep } from "../steps/lines/LinesStep";
import { Compare } from "../compare/Compare";
import { LogPanel } from "../log/LogPanel";
import { closeBench, openBench, type StepName, useBench } from "../session/benchStore";
import { Finding } from "./Finding";
import { KeysPanel } from "./KeysPanel";
import { Offers } from "./Offers";
import { Route } from "./Route";
import { Stage } from "../stage/Stage";
import { useTakes } from "../session/takes";
import { useTouchUps } from "../session/touchUps";

const PAGES: Record<StepName, ReactElement> = { lens: <LensStep />, lines: <LinesStep />, frame: <FrameStep />, edges: <EdgesStep />, export: <ExportStep /> };

const NARROW = "@media (max-width: 899px)";

/** The screen where one photo is worked on: route, stage, field book, finding. */
export function Bench({ photoId }: { photoId: number }) {
  const bench = useBench((state) => state.bench);
  const step = useBench((state) => state.step);
  const log = useBench((state) => state.log);
  const comparing = useBench((state) => state.comparison !== null);
  const notice = useBench((state) => state.notice);
  const stale = useBench((state) => state.stale);
  const [keys, setKeys] = useState(false);
  const queries = useQueryClient();
  const toggleKeys = useCallback(() => setKeys((open) => !open), []);

  useEffect(() => {
    void openBench(photoId);
    const listAnew = () => void queries.invalidateQueries({ queryKey: ["photos"] });
    return () => {
      listAnew();
      void closeBench().then(listAnew);
    };
  }, [photoId, queries]);

  useTakes();
  useTouchUps();

  useEffect(() => {
    document.title = bench ? `${bench.photo.title} · Sequor` : "Sequor";
  }, [bench]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === "?" && !(event.target as Element).matches("input")) setKeys((open) => !open);
      if (event.key === "Escape") setKeys(false);
    };
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  }, []);

  return (
    <Flex direction="column" h="100%" css={{ [NARROW]: { height: "auto", minHeight: "100%" } }}>
      <Route onKeys={toggleKeys} />
      <Flex as="main" flex="1" minH={0} css={{ [NARROW]: { flexDirection: "column-reverse" } }}>
        <Flex
          as="section"
          aria-label="Field book"
          direction="column"
          w="312px"
          flex="none"
          borderRight="1px solid"
          borderColor="rule"
          minH={0}
          overflow="hidden"
          css={{ [NARROW]: { width: "100%", overflow: "visible" } }}
        >
          {log ? <LogPanel /> : PAGES[step]}
        </Flex>
        <Flex flex="1" minW={0} minH={0} css={{ [NARROW]: { height: "62vh", minHeight: "300px", flex: "none" } }}>
          {comparing ? <Compare key={photoId} /> : <Stage key={photoId} />}
        </Flex>
      </Flex>
      <Flex
        as="footer"
        h="64px"
        flex="none"
        px="16px"
        py="4px"
        gap="16px"
        align="center"
        bg="touch"
        borderTop="1px solid"
        borderColor="rule"
        css={{ [NARROW]: { flexWrap: "wrap", height: "auto", minHeight: "64px" } }}
      >
        <Box role="status" data-finding flex="1" minW="300px" maxH="100%" overflowY="auto" fontSize="13.5px" lineHeight="1.3">
          <Finding />
        </Box>
        <Offers />
      </Flex>
      {keys && <KeysPanel onClose={() => setKeys(false)} />}
      {notice && (
        <Notice
          action={stale ? "Show the newest" : "Understood"}
          onAction={() => (stale || !bench ? void openBench(photoId) : useBench.setState({ notice: null }))}
        >
          {notice}
        </Notice>
      )}
    </Flex>
  );
}
