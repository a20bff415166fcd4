import { useQuery } from "@tanstack/react-query";

import { api, type Shapes } from "./client";

/** The usual ratios and papers and the lines to compose by; null until they have come. */
export function useShapes(): Shapes | null {
  return useQuery({ queryKey: ["shapes"], queryFn: api.shapes, staleTime: Infinity }).data ?? null;
}
