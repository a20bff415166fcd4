import { useQuery } from "@tanstack/react-query";

import { api, type Revision, type Version } from "./client";
import { useBench } from "../session/benchStore";

/** Everything that was done to the photo, the import first; asked for again when it changes. */
export function useRevisions(): Revision[] {
  const photo = useBench((state) => state.bench?.photo);
  const { data } = useQuery({
    queryKey: ["revisions", photo?.id, photo?.version],
    queryFn: () => api.revisions(photo!.id),
    enabled: photo !== undefined,
    // The list from before stays in sight, but never that of another photo.
    placeholderData: (before, query) => (query?.queryKey[1] === photo?.id ? before : undefined),
  });
  return data ?? [];
}

export const versionsKey = (photo: number | undefined) => ["versions", photo];

/** The named states of the photo. */
export function useVersions(): Version[] {
  const photo = useBench((state) => state.bench?.photo.id);
  const { data } = useQuery({ queryKey: versionsKey(photo), queryFn: () => api.versions(photo!).then(({ versions }) => versions), enabled: photo !== undefined });
  return data ?? [];
}

/** A revision by its place in the log and its words. */
export const numbered = ({ action, number }: Revision) => `${number} · ${action}`;
