import { useCallback } from "react";

interface Pages {
  hasNextPage: boolean;
  isFetchingNextPage: boolean;
  fetchNextPage: () => Promise<unknown>;
}

/** What reads the next page of a list, if there is one and it is not on its way. */
export const useMore = ({ hasNextPage, isFetchingNextPage, fetchNextPage }: Pages) =>
  useCallback(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
