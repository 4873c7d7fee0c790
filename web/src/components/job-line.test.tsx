// @vitest-environment jsdom
/** What a line of work says: its name, how far it is, how it ended, and what it left. */
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { MemoryRouter } from "react-router";
import type { Job } from "../api/client";
import { App } from "../testing";
import { JobLine, nameOf, progressOf } from "./job-line";

afterEach(cleanup);

const job = (more: Partial<Job>): Job =>
  ({
    ...{ id: 1, kind: "edit", subject: "Rate 30,000 tracks 4 stars", state: "running", done: 20_000 },
    ...{
      total: 30_000,
      unit: "track",
      current: "",
      seconds_left: null,
      error: null,
      payload: {},
      result: null,
    },
    ...{ made_at: new Date().toISOString(), finished_at: null, failures: 0 },
    ...{ can_pause: false, can_retry: false, can_put_back: false },
    ...more,
  }) as Job;

const says = (more: Partial<Job>) => {
  cleanup();
  render(
    <App>
      <MemoryRouter>
        <JobLine job={job(more)} />
      </MemoryRouter>
    </App>,
  );
  return document.querySelector("[data-job]")?.textContent ?? "";
};

test("an edit of very many says how far it is, what it left, and that it was undone", () => {
  expect(says({})).toContain("20,000 of 30,000 tracks");
  screen.getByLabelText("Cancel Rate 30,000 tracks 4 stars");
  const ended = { state: "done", done: 30_000, finished_at: new Date().toISOString() } as const;
  expect(says({ ...ended, result: { locked: 1200 } })).toContain("done but for 1,200 that are locked,");
  expect(says({ ...ended, result: { locked: 0 } })).toContain("done, 30,000 of 30,000 tracks");
  const undone = says({ state: "cancelled", finished_at: ended.finished_at, result: { undone: true } });
  expect(undone).toContain("ended, because it was undone,");
  expect(says({ state: "cancelled", finished_at: ended.finished_at })).toContain("cancelled,");
});

test("work is named by its kind and what it is about", () => {
  expect(nameOf(job({}))).toBe("Rate 30,000 tracks 4 stars");
  expect(nameOf(job({ kind: "analysis", subject: "new tracks" }))).toBe("Analysis");
  expect(nameOf(job({ kind: "import", subject: "/music/Downloads" }))).toBe("Import Downloads");
  expect(nameOf(job({ kind: "template", subject: "Template “Ready”" }))).toBe("Using a template “Ready”");
});

test("bytes are told with their pace, and work that has not counted yet as beginning", () => {
  const bytes = { unit: "byte", done: 50_000_000, total: 150_000_000, seconds_left: 10 };
  expect(progressOf(job(bytes))).toBe("50 MB of 150 MB at 10 MB a second");
  expect(progressOf(job({ total: null }))).toBe("beginning…");
});
