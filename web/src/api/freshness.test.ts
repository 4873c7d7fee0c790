/** What the server tells makes stale what shows it, once, and nothing else. */
import { QueryClient, type QueryKey } from "@tanstack/react-query";
import { beforeEach, expect, test, vi } from "vitest";
import type { Job, ServerEvent } from "./client";
import { Freshness } from "./freshness";

let queries: QueryClient;
let freshness: Freshness;

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("window", globalThis);
  queries = new QueryClient();
  freshness = new Freshness(queries);
});

const keep = (key: QueryKey, data: unknown = null) => queries.setQueryData(key, data);
const isStale = (key: QueryKey) => queries.getQueryState(key)?.isInvalidated;
const changed = (topics: string[], track_ids: number[] | null, revision = 1, background = false) =>
  ({ type: "changed", revision, topics, track_ids, background }) as unknown as ServerEvent;

test("an edit of one track leaves the page of another alone", () => {
  keep(["tracks", "one", 1]);
  keep(["tracks", "one", 2]);
  keep(["tracks", "rows", [1, 2]], [{ id: 1 }, { id: 2 }]);
  keep(["tracks", "rows", [3]], [{ id: 3 }]);
  keep(["crates"]);
  freshness.hear(changed(["tracks"], [1]));
  expect(isStale(["tracks", "one", 1])).toBe(true);
  expect(isStale(["tracks", "one", 2])).toBe(false);
  expect(isStale(["tracks", "rows", [1, 2]])).toBe(true);
  expect(isStale(["tracks", "rows", [3]])).toBe(false);
  expect(isStale(["crates"])).toBe(false);
});

test("the same change heard twice, from the answer and from the stream, is applied once", () => {
  keep(["undo"]);
  freshness.hear(changed(["undo"], null, 7));
  keep(["undo"]);
  freshness.hear(changed(["undo"], null, 7));
  expect(isStale(["undo"])).toBe(false);
});

test("what is done in the background is gathered before anything is asked anew", () => {
  keep(["tracks", "one", 1]);
  freshness.hear(changed(["tracks"], [1], 2, true));
  expect(isStale(["tracks", "one", 1])).toBe(false);
  vi.advanceTimersByTime(2500);
  expect(isStale(["tracks", "one", 1])).toBe(true);
});

test("a job is told whole: nothing is asked, and a new one comes first", () => {
  keep(["jobs"], [{ id: 1, done: 0 }]);
  const told = (id: number, done: number) =>
    freshness.hear({
      type: "job",
      job: { id, done, kind: "route", failures: 0, finished_at: null } as Job,
    } as ServerEvent);
  told(1, 5);
  told(2, 0);
  expect(queries.getQueryData<Job[]>(["jobs"])?.map(({ id, done }) => [id, done])).toEqual([
    [2, 0],
    [1, 5],
  ]);
});

test("after a gap in the connection everything is asked anew", () => {
  keep(["crates"]);
  freshness.hear({ type: "hello", revision: 4 } as ServerEvent);
  expect(isStale(["crates"])).toBe(true);
  keep(["crates"]);
  freshness.hear({ type: "hello", revision: 4 } as ServerEvent);
  expect(isStale(["crates"])).toBe(false);
});

test("an answer about all jobs that is older than what was told meanwhile brings back none that has ended", async () => {
  let answer: (jobs: Job[]) => void = () => undefined;
  const queryFn = () => new Promise<Job[]>((resolve) => (answer = resolve));
  const asked = queries.fetchQuery({ queryKey: ["jobs"], queryFn });
  const ended = { id: 1, done: 34, kind: "route", failures: 0, finished_at: "now" } as Job;
  freshness.hear({ type: "job", job: ended } as ServerEvent);
  answer([{ ...ended, done: 0, finished_at: null }]);
  await asked;
  vi.advanceTimersByTime(1);
  expect(queries.getQueryData(["jobs"])).toEqual([ended]);
  const again = queries.fetchQuery({ queryKey: ["jobs"], queryFn });
  answer([]);
  await again;
  vi.advanceTimersByTime(1);
  expect(queries.getQueryData(["jobs"]), "what was told before counts once").toEqual([]);
});
