import { type InfiniteData, type QueryClient, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";

import { api, type Photo, type PhotoPage, type Place } from "./client";
import { useMore } from "./useMore";

const LIST = ["photos", "list"];
const SHEET = ["photos", "sheet"];

/** How long a list that was read counts as new, and up to how many pages it is read again for a look at the window. */
const FRESH_MS = 30_000;
const FEW_PAGES = 2;
const NOWHERE: Place = { before: null, after: null, place: 0, total: 0 };

type Pages = InfiniteData<PhotoPage, number>;

/** The photos beside one on the contact sheet, and its place there. */
export const useNeighbours = (photo: number, enabled: boolean): Place =>
  useQuery({ queryKey: ["photos", "place", photo], queryFn: () => api.place(photo), enabled }).data ?? NOWHERE;

/** How all photos stand, in words. */
export const useSheet = () => useQuery({ queryKey: SHEET, queryFn: api.sheet });

const change = (queries: QueryClient, photos: (before: Photo[]) => Photo[]) =>
  queries.setQueryData<Pages>(LIST, (before) => before && { ...before, pages: before.pages.map((page) => ({ ...page, photos: photos(page.photos) })) });

/** Show a photo of the list as it is by now. */
export function putPhoto(queries: QueryClient, photo: Photo) {
  change(queries, (before) => before.map((one) => (one.id === photo.id ? photo : one)));
  void queries.invalidateQueries({ queryKey: SHEET });
}

/** The photos of the contact sheet as far as they were read, page by page, and what changes the list in place. */
export function usePhotos() {
  const queries = useQueryClient();
  const pages = useInfiniteQuery({
    queryKey: LIST,
    queryFn: ({ pageParam }) => api.photos(pageParam),
    initialPageParam: 0,
    getNextPageParam: ({ next }) => next,
    staleTime: FRESH_MS,
    refetchOnWindowFocus: ({ state }) => (state.data?.pages.length ?? 0) <= FEW_PAGES,
  });
  const { data, error } = pages;
  const photos = useMemo(() => data?.pages.flatMap((page) => page.photos) ?? [], [data]);
  const changes = useMemo(
    () => ({
      /** Show a photo as it is by now. */
      put: (photo: Photo) => putPhoto(queries, photo),
      /** Take a photo off the list. */
      drop: (id: number) => change(queries, (before) => before.filter((one) => one.id !== id)),
      /** Ask for the list again. */
      again: () => queries.invalidateQueries({ queryKey: ["photos"] }),
      /** Ask how all photos stand. */
      count: () => queries.invalidateQueries({ queryKey: SHEET }),
    }),
    [queries],
  );
  return { photos, known: data !== undefined, error, more: useMore(pages), changes };
}
