import { api, type Job, Problem } from "./client";

const POLL_MS = 150;
const AWAY_MS = 1000;

/** How long a program that does not answer is waited for: it may be started again, and takes jobs up then. */
const MOST_AWAY = 60;

/** Wait until a job has ended; `onNews` hears every state on the way, the last one included. */
export async function followJob(job: Job, onNews: (job: Job) => void): Promise<Job> {
  let now = job;
  let away = 0;
  onNews(now);
  while (now.state === "waiting" || now.state === "running") {
    await new Promise((resolve) => setTimeout(resolve, away ? AWAY_MS : POLL_MS));
    try {
      now = await api.job(now.id);
      away = 0;
      onNews(now);
    } catch (problem) {
      const silent = problem instanceof Problem && (problem.status === 0 || problem.status === 503);
      if (!silent || ++away > MOST_AWAY) throw problem;
    }
  }
  return now;
}
