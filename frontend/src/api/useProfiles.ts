import { useQuery } from "@tanstack/react-query";

import { api } from "./client";
import { useBench } from "../session/benchStore";

/** The profiles for a photo; the answer is the same as long as the program runs. */
export function useProfiles(words: string) {
  const id = useBench((state) => state.bench?.photo.id);
  return useQuery({
    queryKey: ["profiles", id, words],
    queryFn: () => api.profiles(id!, words),
    enabled: id !== undefined,
    staleTime: Infinity,
  });
}
