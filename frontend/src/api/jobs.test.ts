import { QueryClient } from "@tanstack/react-query";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { api, type Job, Problem } from "./client";
import { followJob } from "./jobs";

const job = (state: Job["state"], progress = 0) => ({ id: "7", state, progress, words: "" }) as unknown as Job;

beforeEach(() => void vi.useFakeTimers());
afterEach(() => {
  vi.useRealTimers();
  vi.restoreAllMocks();
});

it("hears how far a job is until it has ended, once each", async () => {
  vi.spyOn(api, "job").mockResolvedValueOnce(job("running", 0.5)).mockResolvedValueOnce(job("done", 1));
  const heard: number[] = [];
  const ended = followJob(new QueryClient(), job("waiting"), ({ progress }) => heard.push(progress));
  await vi.advanceTimersByTimeAsync(1000);
  expect((await ended).state).toBe("done");
  expect([...new Set(heard)]).toEqual([0, 0.5, 1]);
  expect(api.job).toHaveBeenCalledTimes(2);
});

it("waits for a program that is started again, and gives up when a job is not known any more", async () => {
  const away = new Problem(0, "No answer", "");
  vi.spyOn(api, "job").mockRejectedValueOnce(away).mockRejectedValueOnce(away).mockResolvedValueOnce(job("done", 1));
  const ended = followJob(new QueryClient(), job("waiting"));
  await vi.advanceTimersByTimeAsync(5000);
  expect((await ended).state).toBe("done");
  vi.spyOn(api, "job").mockRejectedValue(new Problem(404, "No such job", "it ended more than an hour ago"));
  const gone = expect(followJob(new QueryClient(), job("running"))).rejects.toThrow("more than an hour ago");
  await vi.advanceTimersByTimeAsync(1000);
  await gone;
});
