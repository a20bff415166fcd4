import { type QueryClient, QueryObserver, skipToken, useQuery } from "@tanstack/react-query";

import { api, type Job, Problem } from "./client";

const POLL_MS = 150;
const AWAY_MS = 1000;

/** How often a program that does not answer is asked again: it may be started anew, and takes jobs up then. */
const MOST_AWAY = 60;

export const working = ({ state }: Job): boolean => state === "waiting" || state === "running";

const jobKey = (id: string | null) => ["job", id];

const watched = (id: string | null) =>
  ({
    queryKey: jobKey(id),
    queryFn: id === null ? skipToken : () => api.job(id),
    staleTime: Infinity,
    refetchInterval: ({ state }: { state: { data?: Job } }) => (state.data && working(state.data) ? POLL_MS : false),
    refetchIntervalInBackground: true,
    retry: (away: number, problem: Error) => problem instanceof Problem && (problem.status === 0 || problem.status === 503) && away < MOST_AWAY,
    retryDelay: AWAY_MS,
  }) as const;

/** How far a job is; null without one, and until it is known. */
export const useJob = (id: string | null): Job | null => useQuery(watched(id)).data ?? null;

/** Wait until a job has ended; `onNews` hears every state on the way, the last one included. */
export function followJob(queries: QueryClient, job: Job, onNews: (job: Job) => void = () => undefined): Promise<Job> {
  queries.setQueryData(jobKey(job.id), job);
  return new Promise((resolve, reject) => {
    const observer = new QueryObserver<Job>(queries, watched(job.id));
    const hear = ({ data, error }: { data?: Job; error: Error | null }) => {
      if (data) onNews(data);
      if (!error && (!data || working(data))) return;
      end();
      if (error) reject(error);
      else if (data) resolve(data);
    };
    const end = observer.subscribe(hear);
    hear(observer.getCurrentResult());
  });
}
