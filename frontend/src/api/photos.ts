import { type InfiniteData, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";

import { api, type Photo, type PhotoPage, type Place } from "./client";

const LIST = ["photos", "list"];
const NOWHERE: Place = { before: null, after: null, place: 0, total: 0 };

type Pages = InfiniteData<PhotoPage, number>;

/** The photos beside one on the contact sheet, and its place there. */
export const useNeighbours = (photo: number, enabled: boolean): Place =>
  useQuery({ queryKey: ["photos", "place", photo], queryFn: () => api.place(photo), enabled }).data ?? NOWHERE;

/** How all photos stand, in words. */
export const useSheet = () => useQuery({ queryKey: ["photos", "sheet"], queryFn: api.sheet });

/** The photos of the contact sheet as far as they were read, page by page, and what changes the list in place. */
export function usePhotos() {
  const queries = useQueryClient();
  const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage } = useInfiniteQuery({
    queryKey: LIST,
    queryFn: ({ pageParam }) => api.photos(pageParam),
    initialPageParam: 0,
    getNextPageParam: ({ next }) => next,
  });
  const photos = useMemo(() => data?.pages.flatMap((page) => page.photos) ?? [], [data]);
  const change = (photos: (before: Photo[]) => Photo[]) =>
    queries.setQueryData<Pages>(LIST, (before) => before && { ...before, pages: before.pages.map((page) => ({ ...page, photos: photos(page.photos) })) });
  return {
    photos,
    known: data !== undefined,
    error,
    more: () => {
      if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
    },
    /** Show a photo as it is by now. */
    put: (photo: Photo) => change((before) => before.map((one) => (one.id === photo.id ? photo : one))),
    /** Take a photo off the list. */
    drop: (id: number) => change((before) => before.filter((one) => one.id !== id)),
    /** Ask for the list again. */
    again: () => queries.invalidateQueries({ queryKey: ["photos"] }),
    /** Ask how all photos stand. */
    count: () => queries.invalidateQueries({ queryKey: ["photos", "sheet"] }),
  };
}
