import { type InfiniteData, keepPreviousData, type QueryClient, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";

import { api, type Edges, type Recipe, type Revision, type Revisions, type Shapes, type Take, type Takes, type Version } from "./client";
import { useMore } from "./useMore";

const POLL_MS = 250;

/** The usual ratios and papers and the lines to compose by; null until they have come. */
export const useShapes = (): Shapes | null => useQuery({ queryKey: ["shapes"], queryFn: api.shapes, staleTime: Infinity }).data ?? null;

/** The profiles for a photo; the answer is the same as long as the program runs. */
export const useProfiles = (photo: number, words: string) =>
  useQuery({ queryKey: ["profiles", photo, words], queryFn: () => api.profiles(photo, words), staleTime: Infinity });

export const versionsKey = (photo: number) => ["versions", photo];

const NO_VERSIONS: Version[] = [];

/** The named states of a photo. */
export function useVersions(photo: number): Version[] {
  const { data } = useQuery({ queryKey: versionsKey(photo), queryFn: () => api.versions(photo).then(({ versions }) => versions) });
  return data ?? NO_VERSIONS;
}

type Pages = InfiniteData<Revisions, number>;

/** The log as far as it was read, the newest first. */
export interface Log {
  revisions: Revision[];
  /** How many entries there are in all. */
  total: number;
  /** Read those before. */
  more: () => void;
}

/**
 * What was done to a photo, page by page. When the photo changes (`version`) only the newest page is asked for and put
 * before what is known: entries are never changed.
 */
export function useLog(photo: number, version: number | undefined): Log {
  const queries = useQueryClient();
  const key = useMemo(() => ["log", photo], [photo]);
  const pages = useInfiniteQuery({
    queryKey: key,
    queryFn: ({ pageParam }) => api.revisions(photo, pageParam),
    initialPageParam: 0,
    getNextPageParam: ({ next }) => next,
    staleTime: Infinity,
  });
  const { data } = pages;
  const known = data !== undefined;
  const { data: newest } = useQuery({
    queryKey: ["newest of the log", photo, version],
    queryFn: () => api.revisions(photo, 0),
    enabled: known && version !== undefined,
    gcTime: 0,
  });
  useEffect(() => {
    if (newest) queries.setQueryData<Pages>(key, (before) => before && withNewest(before, newest));
  }, [newest, key, queries]);
  const revisions = useMemo(() => data?.pages.flatMap((page) => page.revisions) ?? [], [data]);
  return { revisions, total: revisions[0]?.number ?? 0, more: useMore(pages) };
}

/** The pages with what is new put before them; nothing of them is kept where something lies between. */
export function withNewest(before: Pages, newest: Revisions): Pages {
  const first = before.pages[0]?.revisions[0];
  const added = newest.revisions.filter(({ id }) => !first || id > first.id);
  if (!added.length) return before;
  const joins = first && (added.length < newest.revisions.length || newest.next === null);
  if (!joins) return { pages: [newest], pageParams: [0] };
  const [head, ...rest] = before.pages;
  return { ...before, pages: [{ revisions: [...added, ...(head?.revisions ?? [])], next: head?.next ?? null }, ...rest] };
}

/** What each way with the empty corners costs for a recipe, and which suits; those from before until they are there. */
export const useEdges = (recipe: Recipe | null): { edges: Edges | undefined; asking: boolean } => {
  const { data, isFetching } = useQuery({
    queryKey: ["edges", JSON.stringify(recipe)],
    queryFn: () => (recipe ? api.edges(recipe) : Promise.reject(new Error("no recipe"))),
    enabled: recipe !== null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  return { edges: data, asking: isFetching };
};

export const unfinished = ({ state }: Take): boolean => state === "waiting" || state === "running";

const takesKey = (photo: number, touchUp: string, madeFor: string) => ["takes", photo, touchUp, madeFor];

/** A notice stays until what it speaks of has been done. */
function withNotice(queries: QueryClient, photo: number, touchUp: string, takes: Takes): Takes {
  const before = queries.getQueryData<Takes>(takesKey(photo, touchUp, takes.made_for));
  const waits = takes.takes.some(({ state }) => state === "waiting");
  return { ...takes, notice: takes.notice ?? (waits ? (before?.notice ?? null) : null) };
}

/** What asks for takes: of the corners (""), or of a touch-up; asked again as long as one is being made. */
export function takesQuery(queries: QueryClient, photo: number, touchUp: string, madeFor: string, enabled: boolean) {
  return {
    queryKey: takesKey(photo, touchUp, madeFor),
    queryFn: () => api.takes(photo, touchUp).then((takes) => withNotice(queries, photo, touchUp, takes)),
    enabled,
    staleTime: Infinity,
    refetchInterval: ({ state }: { state: { data?: Takes } }) => (state.data?.takes.some(unfinished) ? POLL_MS : false),
  } as const;
}

/** Something asked about takes, whose answer says how they stand. */
export async function changeTakes(queries: QueryClient, photo: number, touchUp: string, request: () => Promise<Takes>): Promise<Takes> {
  // An answer from before must not come after this one.
  await queries.cancelQueries({ queryKey: ["takes", photo, touchUp] });
  const takes = withNotice(queries, photo, touchUp, await request());
  queries.setQueryData(takesKey(photo, touchUp, takes.made_for), takes);
  return takes;
}

/** A revision by its place in the log and its words. */
export const numbered = ({ action, number }: Revision) => `${number} · ${action}`;
