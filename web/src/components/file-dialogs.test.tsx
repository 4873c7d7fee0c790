// @vitest-environment jsdom
/** Dialogs about files: what would be written, heard again or found is shown first, and only what is ticked is sent. */
import { serve } from "../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Job } from "../api/client";
import { only } from "../api/client";
import { App } from "../testing";
import { AnalyseDialog } from "./analyse-dialog";
import { CompareDialog } from "./compare-dialog";
import { FoundDialog } from "./found-dialog";
import { WriteDialog } from "./write-dialog";

beforeEach(() => localStorage.clear());
afterEach(cleanup);

const JOB = { id: 5, kind: "compare" } as Job;

function show(what: (onClose: () => void) => React.ReactNode) {
  const onClose = vi.fn();
  render(<App>{what(onClose)}</App>);
  return { onClose, user: userEvent.setup() };
}

const PLAN = {
  files: [
    {
      ...{ track_id: 7, name: "Salt.mp3", new_name: null, note: "", refused: "" },
      changes: [{ field: "key", before: null, after: "A minor" }],
    },
    {
      ...{ track_id: 8, name: "Gone.mp3", new_name: null, note: "", changes: [] },
      refused: "Its file is not there: plug in its drive, then write it again.",
    },
  ],
  unchanged: 1,
  more: 0,
};

test("writing shows each file first, asks anew when the form changes, and sends what was shown", async () => {
  const asked = serve({ "POST /api/tags/plan": PLAN, "POST /api/tags/write": { id: 1 } });
  const { onClose, user } = show((close) => <WriteDialog picked={only(7, 8, 9)} onClose={close} />);
  await screen.findByText("A minor");
  screen.getByText(/Its file is not there/);
  screen.getByText(/1 file would stay as it is/);
  await user.click(screen.getByRole("button", { name: "✓ stars" }));
  await waitFor(() => expect(asked.length).toBe(2));
  await user.click(await screen.findByText("Write into 1 file"));
  await waitFor(() => expect(onClose).toHaveBeenCalled());
  const sent = asked.at(-1);
  expect(sent?.what).toBe("POST /api/tags/write");
  expect(sent?.body).toMatchObject({ ids: [7, 8, 9], fields: ["key", "tempo", "energy"], results: [] });
});

test("where nothing would change nothing can be written, and a refusal is said", async () => {
  serve({ "POST /api/tags/plan": { files: [], unchanged: 2, more: 0 } });
  show((close) => <WriteDialog picked={only(7, 8)} onClose={close} />);
  await screen.findByText(/2 files would stay as they are/);
  expect(screen.getByText<HTMLButtonElement>("Nothing to write").disabled).toBe(true);
  cleanup();
  serve({});
  show((close) => <WriteDialog picked={only(7)} onClose={close} />);
  await screen.findByText("Nothing answers POST /api/tags/plan.");
});

test("analysing asks for what is missing, or for all within a window, which may be compared first", async () => {
  const asked = serve({ "POST /api/analysis/again": { queued: 2 }, "POST /api/analysis/compare": { id: 3 } });
  const { user } = show((close) => <AnalyseDialog picked={only(7, 8)} onClose={close} />);
  expect(screen.getByText<HTMLButtonElement>("Compare first").disabled).toBe(true);
  await user.type(screen.getByLabelText("Tempo, slowest"), "140");
  expect(screen.getByText<HTMLButtonElement>("Analyse now").disabled).toBe(true);
  await user.type(screen.getByLabelText("Tempo, fastest"), "70");
  expect(screen.getByText<HTMLButtonElement>("Analyse now").disabled).toBe(true);
  await user.clear(screen.getByLabelText("Tempo, fastest"));
  await user.type(screen.getByLabelText("Tempo, fastest"), "200");
  await user.click(screen.getByLabelText("All of them, again"));
  await user.click(screen.getByLabelText("key"));
  await user.click(screen.getByText("Compare first"));
  await waitFor(() => expect(asked.length).toBe(1));
  expect(asked[0]?.body).toMatchObject({
    ...{ ids: [7, 8], window: { low: 140, high: 200 }, only_missing: false },
    parts: ["grid", "energy", "loudness"],
  });
});

test("of what was heard again only the ticked tracks are taken", async () => {
  const difference = (track_id: number, title: string) => ({
    ...{ track_id, title, field: "tempo", before: "87.00", after: "174.00" },
  });
  const asked = serve({
    "GET /api/analysis/compare/5": [difference(7, "Salt"), difference(8, "Halyard")],
    "POST /api/analysis/compare/5/take": { queued: 1 },
  });
  const { user } = show((close) => <CompareDialog job={JOB} onClose={close} />);
  await user.click(await screen.findByLabelText("Salt"));
  await user.click(screen.getByText("Take in 1 track"));
  await waitFor(() => expect(asked.at(-1)?.body).toEqual({ ids: [8] }));
});

test("found files that are hardly sure are not ticked until somebody does", async () => {
  const found = (track_id: number, title: string, confidence: number) => ({
    ...{ track_id, title, confidence, before: `/old/${title}.mp3`, after: `/new/${title}.mp3` },
    evidence: ["the same name"],
  });
  const asked = serve({
    "GET /api/away/found/5": [found(7, "Salt", 0.95), found(8, "Halyard", 0.6)],
    "POST /api/away/found/5/take": { taken: 2 },
  });
  const { user } = show((close) => <FoundDialog job={JOB} onClose={close} />);
  await screen.findByText("These are the files of 1 track");
  await user.click(screen.getByText("Halyard"));
  await user.click(screen.getByText("These are the files of 2 tracks"));
  await waitFor(() => expect(asked.at(-1)?.body).toEqual({ ids: [7, 8] }));
});
