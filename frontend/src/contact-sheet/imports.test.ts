import { QueryClient } from "@tanstack/react-query";
import { beforeEach, describe, expect, it, vi } from "vitest";

import * as client from "../api/client";
import * as hashing from "./hashing";
import { useImports } from "./imports";

const job = (more: object) => ({ id: "1", state: "done", progress: 1, words: "", error: null, known: false, notices: [], ...more }) as unknown as client.Job;

const queries = new QueryClient();
const files = (count: number) => Array.from({ length: count }, (_, at) => new File(["x"], `${at}.jpg`));

async function brought(count: number): Promise<number> {
  const done = vi.fn();
  useImports.getState().add(queries, files(count), done);
  await vi.waitFor(() => expect(useImports.getState().order).toHaveLength(0));
  return done.mock.calls.length;
}

beforeEach(() => {
  vi.restoreAllMocks();
  useImports.setState({ running: {}, order: [], added: 0, ended: 0 });
  vi.spyOn(client, "upload").mockImplementation(() => Promise.resolve(job({})));
  vi.spyOn(hashing, "isHere").mockImplementation(() => Promise.resolve(false));
  vi.spyOn(client.api, "beginImport").mockImplementation(() => Promise.resolve({ id: 7 } as client.Batch));
});

describe("imports", () => {
  it("ask for the list with each photo of a few, and once a batch of many", async () => {
    expect(await brought(3)).toBe(3);
    const asked = await brought(200);
    expect(asked).toBeGreaterThanOrEqual(10);
    expect(asked).toBeLessThanOrEqual(40);
  });

  it("tell how far one is without touching the others", async () => {
    let tell: (share: number) => void = () => undefined;
    const sent = vi.spyOn(client, "upload").mockImplementation((_file, progress) => {
      tell = progress;
      return new Promise(() => undefined);
    });
    useImports.getState().add(queries, files(2), () => undefined);
    await vi.waitFor(() => expect(sent).toHaveBeenCalledTimes(2));
    const before = useImports.getState();
    const [one, two] = before.order;
    tell(0.5);
    const after = useImports.getState();
    expect(after.order).toBe(before.order);
    const changed = [one, two].filter((key) => after.running[key!] !== before.running[key!]);
    expect(changed).toHaveLength(1);
  });

  it("send what is here already only once, and count it in a large stack", async () => {
    const sent = vi.spyOn(client, "upload");
    vi.spyOn(hashing, "isHere").mockImplementation(() => Promise.resolve(true));
    expect(await brought(30)).toBeGreaterThan(0);
    expect(sent).not.toHaveBeenCalled();
    expect(useImports.getState()).toMatchObject({ added: 30, ended: 30, here: 30, order: [] });
  });

  it("name the stack that files came with", async () => {
    const sent = vi.spyOn(client, "upload");
    await brought(2);
    expect(sent.mock.calls.map(([, , , options]) => options?.batch)).toEqual([7, 7]);
  });

  it("keep a refusal in sight until it is read", async () => {
    vi.spyOn(client, "upload").mockImplementation((file) => Promise.resolve(job(file.name === "0.jpg" ? { state: "failed", error: "it is cut short" } : {})));
    useImports.getState().add(queries, files(2), () => undefined);
    await vi.waitFor(() => expect(useImports.getState().order).toHaveLength(1));
    const [key] = useImports.getState().order;
    expect(useImports.getState().running[key!]).toMatchObject({ name: "0.jpg", error: "it is cut short" });
    useImports.getState().dismiss(key!);
    expect(useImports.getState().order).toEqual([]);
  });
});
