import { type InfiniteData, keepPreviousData, type QueryClient, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";

import { useAskedWords } from "./asked";
import { api, type Filters, type Photo, type PhotoPage, type Place } from "./client";
import { useMore } from "./useMore";

const LIST = ["photos", "list"];
const SHEET = ["photos", "sheet"];

/** How long a list that was read counts as new, and up to how many pages it is read again for a look at the window. */
const FRESH_MS = 30_000;
const FEW_PAGES = 2;
const NOWHERE: Place = { before: null, after: null, place: 0, total: 0 };
/** How often the sheet is asked for while looks are on their way. */
const LOOKING_MS = 1500;

type Pages = InfiniteData<PhotoPage, string>;

/** The photos beside one among those that the contact sheet shows, and its place there. */
export function useNeighbours(photo: number, enabled: boolean): Place {
  const asked = useAskedWords();
  return useQuery({ queryKey: ["photos", "place", photo, asked], queryFn: () => api.place(photo, asked), enabled }).data ?? NOWHERE;
}

/** How all photos stand, in words, and how many are asked for. */
export function useSheet() {
  const asked = useAskedWords();
  return useQuery({ queryKey: [...SHEET, asked], queryFn: () => api.sheet(asked), placeholderData: keepPreviousData });
}

/** What the photos can be chosen by. */
export const useFilters = (): Filters | undefined => useQuery({ queryKey: ["photos", "filters"], queryFn: api.filters }).data;

const change = (queries: QueryClient, photos: (before: Photo[]) => Photo[]) =>
  queries.setQueriesData<Pages>({ queryKey: LIST }, (before) => before && { ...before, pages: before.pages.map((page) => ({ ...page, photos: photos(page.photos) })) });

/** Show a photo of the list as it is by now. */
export function putPhoto(queries: QueryClient, photo: Photo) {
  change(queries, (before) => before.map((one) => (one.id === photo.id ? photo : one)));
  void queries.invalidateQueries({ queryKey: SHEET });
}

/** The list as the server has it by now. */
export const photosAgain = (queries: QueryClient) => queries.invalidateQueries({ queryKey: ["photos"] });

const looked = ({ pages }: Pages) => pages.every(({ photos }) => photos.every(({ state, sure, aside }) => state !== "not measured" || sure !== null || aside));

/** The photos of the contact sheet as far as they were read, page by page, and what changes the list in place. */
export function usePhotos() {
  const queries = useQueryClient();
  const asked = useAskedWords();
  const pages = useInfiniteQuery({
    queryKey: [...LIST, asked],
    queryFn: ({ pageParam }) => api.photos(asked, pageParam),
    initialPageParam: "",
    getNextPageParam: ({ next }) => next,
    staleTime: FRESH_MS,
    placeholderData: keepPreviousData,
    refetchOnWindowFocus: ({ state }) => (state.data?.pages.length ?? 0) <= FEW_PAGES,
    refetchInterval: ({ state }) => (state.data && state.data.pages.length <= FEW_PAGES && !looked(state.data) ? LOOKING_MS : false),
  });
  const { data, error, isPlaceholderData } = pages;
  // When the same pages tell something else, how all photos stand is counted again.
  const before = useRef(data);
  useEffect(() => {
    if (before.current && data && before.current !== data && before.current.pages.length === data.pages.length) void queries.invalidateQueries({ queryKey: SHEET });
    before.current = isPlaceholderData ? undefined : data;
  }, [data, isPlaceholderData, queries]);
  const photos = useMemo(() => data?.pages.flatMap((page) => page.photos) ?? [], [data]);
  const changes = useMemo(
    () => ({
      /** Show a photo as it is by now. */
      put: (photo: Photo) => putPhoto(queries, photo),
      /** Take photos off the list. */
      drop: (gone: ReadonlySet<number>) => change(queries, (before) => before.filter(({ id }) => !gone.has(id))),
      /** Ask for the list again. */
      again: () => photosAgain(queries),
      /** Ask how all photos stand. */
      count: () => queries.invalidateQueries({ queryKey: SHEET }),
    }),
    [queries],
  );
  return { photos, known: data !== undefined, error, more: useMore(pages), changes };
}
