import { type QueryKey, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { wordsOf } from "./client";

/** Change something that is kept beside the recipe: its list is asked for again, and a refusal is told in words. */
export function useChange(list: QueryKey) {
  const queries = useQueryClient();
  const [words, setWords] = useState<string | null>(null);
  const change = async (work: () => Promise<unknown>): Promise<boolean> => {
    setWords(null);
    try {
      await work();
      return true;
    } catch (problem) {
      setWords(wordsOf(problem));
      return false;
    } finally {
      void queries.invalidateQueries({ queryKey: list });
    }
  };
  return { change, refused: words };
}
