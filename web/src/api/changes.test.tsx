// @vitest-environment jsdom
/** Changes say what they did, what they left, and why they were refused. */
import { serve } from "../testing-server";
import { useQuery } from "@tanstack/react-query";
import { act, cleanup, renderHook, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import { App } from "../testing";
import { counted, lastCrate, usePutIntoCrate, useRate, useStepBack, warned } from "./changes";
import { undoQuery } from "./queries";

beforeEach(() => localStorage.clear());
afterEach(cleanup);

const said = () => screen.findByTestId("message").then((message) => message.textContent);

test("what was put into a crate is told, with what had been in it and what shall not be played", async () => {
  const asked = serve({
    "POST /api/crates/4/tracks": {
      ...{ added: 2, already_in: 1 },
      warnings: [{ title: "Sluice", why: "never again" }],
    },
  });
  const { result } = renderHook(usePutIntoCrate, { wrapper: App });
  act(() => result.current.mutate({ crate: { id: 4, name: "Friday" }, chosen: { ids: [1, 2, 3] } }));
  expect(await said()).toBe(
    "2 tracks put into “Friday”; 1 already in it. Look again: “Sluice” (never again). Ctrl Z takes them out.",
  );
  expect(asked[0]?.body).toEqual({ ids: [1, 2, 3], at: null });
  expect(lastCrate()).toEqual({ id: 4, name: "Friday" });
});

test("a refusal is said in the server's words, and nothing is remembered of it", async () => {
  serve({ "POST /api/crates/4/tracks": Response.json({ detail: "That crate is gone." }, { status: 404 }) });
  const { result } = renderHook(usePutIntoCrate, { wrapper: App });
  act(() => result.current.mutate({ crate: { id: 4, name: "Friday" }, chosen: { ids: [1] } }));
  expect(await said()).toBe("That crate is gone.");
  expect(lastCrate()).toBeNull();
});

test("locked tracks that were left are told, and nothing is said where all was done", async () => {
  serve({ "PUT /api/tracks/rating": { locked: 1200 } });
  const { result } = renderHook(useRate, { wrapper: App });
  act(() => result.current.mutate({ ids: [1], stars: 3 }));
  expect(await said()).toBe("1,200 tracks left as they were: their tags are locked.");
  cleanup();
  serve({ "PUT /api/tracks/rating": { locked: 0 } });
  const silent = renderHook(useRate, { wrapper: App });
  act(() => silent.result.current.mutate({ ids: [1], stars: 3 }));
  await waitFor(() => expect(silent.result.current.isSuccess).toBe(true));
  expect(screen.queryByTestId("message")).toBeNull();
});

test("undo that is pressed before an edit is answered takes back that edit, and not the step before", async () => {
  let answer: (rated: object) => void = () => undefined;
  const steps = [{ undo: { id: 7, name: "Tag" }, redo: null }];
  const asked = serve({
    "PUT /api/tracks/rating": () => new Promise((done) => (answer = done)),
    "GET /api/undo": () => steps.at(-1),
    "POST /api/undo": { name: "Rate", left: [], undo: null, redo: null },
  });
  const useBoth = () => ({ shown: useQuery(undoQuery).data, rate: useRate(), back: useStepBack("undo") });
  const { result } = renderHook(useBoth, { wrapper: App });
  await waitFor(() => expect(result.current.shown?.undo?.id).toBe(7));
  act(() => result.current.rate.mutate({ ids: [1], stars: 3 }));
  await waitFor(() => expect(asked.at(-1)?.what).toBe("PUT /api/tracks/rating"));
  act(() => result.current.back.mutate());
  steps.push({ undo: { id: 8, name: "Rate" }, redo: null });
  expect(asked.at(-1)?.what).toBe("PUT /api/tracks/rating");
  answer({ rated: 1, locked: 0 });
  await waitFor(() => expect(asked.at(-1)).toEqual({ what: "POST /api/undo", body: { id: 8 } }));
});

test("of so many that they go on in the background it is said what takes them back", async () => {
  const job = { id: 3, kind: "edit", subject: "Rate 30,000 tracks 3 stars" };
  serve({ "PUT /api/tracks/rating": { rated: 0, locked: 0, job } });
  const { result } = renderHook(useRate, { wrapper: App });
  act(() => result.current.mutate({ ids: [1], stars: 3 }));
  expect(await said()).toBe(
    "Rate 30,000 tracks 3 stars: this goes on in the background. Ctrl Z takes back what is done.",
  );
});

test("few that shall not be played are named, of many the first, and how many more", () => {
  const warnings = ["A", "B", "C", "D", "E", "F"].map((title) => ({ track_id: 1, title, why: "locked" }));
  expect(warned([])).toBe("");
  expect(warned(warnings)).toContain("“D” (locked) and 2 more.");
  expect(warned(warnings.slice(0, 4))).not.toContain("more");
  expect([counted(1, "track"), counted(0, "track"), counted(2, "entry", "entries")]).toEqual([
    "1 track",
    "0 tracks",
    "2 entries",
  ]);
});

test("what was kept of the last crate and cannot be read is none", () => {
  localStorage.setItem("vinyl.last crate", "{");
  expect(lastCrate()).toBeNull();
});
