import { Box } from "@chakra-ui/react";
import { type QueryKey, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { Problem } from "../api/client";

/** Change something that is kept beside the recipe: its list is asked for again, and a refusal is told. */
export function useChange(list: QueryKey) {
  const queries = useQueryClient();
  const [words, setWords] = useState<string | null>(null);
  const change = async (work: () => Promise<unknown>): Promise<boolean> => {
    setWords(null);
    try {
      await work();
      return true;
    } catch (problem) {
      setWords(problem instanceof Problem ? problem.message : "That did not work; try again.");
      return false;
    } finally {
      void queries.invalidateQueries({ queryKey: list });
    }
  };
  const refused = words && (
    <Box role="alert" mt="6px" fontSize="13px" color="plumb">
      {words}
    </Box>
  );
  return { change, refused };
}
