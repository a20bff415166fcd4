import { Box, Flex } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, Problem } from "../api/client";
import { goTo } from "../parts/path";
import { Touch } from "../parts/Touch";
import { useImports } from "./imports";

/** What can be done with a picture that was exported from a photo that is here. */
function Steps({ of, job }: { of: number; job: string }) {
  const queries = useQueryClient();
  const { own, dismiss } = useImports.getState();
  const [refused, setRefused] = useState<string | null>(null);
  const open = async () => {
    try {
      const { photo } = await api.takeUp(job);
      dismiss(of);
      goTo(`/photos/${photo.id}`);
    } catch (problem) {
      setRefused(problem instanceof Problem ? problem.message : "That did not work. Nothing was changed; please try again.");
    }
  };
  return (
    <>
      {refused && <Box role="alert">{refused}</Box>}
      <Touch onClick={() => void open()}>Open the original with these steps</Touch>
      <Touch onClick={() => own(queries, of)}>Add as a photo of its own</Touch>
    </>
  );
}

/** A file on its way in, or refused with the reason. */
export function ImportCard({ of }: { of: number }) {
  const one = useImports((state) => state.running[of]);
  const dismiss = useImports((state) => state.dismiss);
  if (!one) return null;
  return (
    <Flex
      role="listitem"
      minH="212px"
      direction="column"
      align="center"
      justify="center"
      gap="8px"
      p="16px"
      border="2px solid"
      borderColor="faint"
      borderRadius="4px"
      bg={one.error ? "paper" : undefined}
      textAlign="center"
    >
      <Box fontWeight={700} overflowWrap="anywhere">
        {one.name}
      </Box>
      {one.error ? (
        <>
          <Box role="alert">{one.error}</Box>
          {one.steps && <Steps of={of} job={one.steps.job} />}
          <Touch onClick={() => dismiss(of)}>Close</Touch>
        </>
      ) : (
        <>
          {one.look && <img src={one.look} alt={`First look at ${one.name}`} style={{ maxWidth: 240, maxHeight: 110 }} />}
          <Box
            role="progressbar"
            aria-label={`Importing ${one.name}`}
            aria-valuenow={Math.round(one.share * 100)}
            aria-valuemin={0}
            aria-valuemax={100}
            w="160px"
            h="6px"
            bg="rule"
            borderRadius="3px"
          >
            <Box h="6px" bg="ink" borderRadius="3px" style={{ width: `${one.share * 100}%` }} />
          </Box>
          <Box>
            {one.words}… {Math.round(one.share * 100)}% of {(one.bytes / 1e6).toFixed(1)} MB
          </Box>
          <Touch onClick={one.stop}>Cancel</Touch>
        </>
      )}
    </Flex>
  );
}
