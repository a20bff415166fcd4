import { api, type Job } from "./client";

const POLL_MS = 150;

/** Wait until a job has ended; `onNews` hears every state on the way, the last one included. */
export async function followJob(job: Job, onNews: (job: Job) => void): Promise<Job> {
  let now = job;
  onNews(now);
  while (now.state === "waiting" || now.state === "running") {
    await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    now = await api.job(now.id);
    onNews(now);
  }
  return now;
}
