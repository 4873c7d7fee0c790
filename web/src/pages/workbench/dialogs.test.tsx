// @vitest-environment jsdom
/** The Workbench's dialogs under hands: what they show, what they send, and what they refuse. */
import { serve } from "../../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { drone } from "../../audio/drone";
import { engine } from "../../audio/engine";
import { App } from "../../testing";
import type { Asked, Bench, Mark } from "./bench";
import { Dialogs } from "./dialogs";

vi.mock("../../audio/engine", () => ({ engine: { position: () => 61.5, toggle: vi.fn() } }));
const [sounds, silence] = [vi.spyOn(drone, "play").mockReturnValue(), vi.spyOn(drone, "stop")];

const GRID = { kind: "steady", beats_per_bar: 4, anchors: [{ time: 0, beat: 0, bpm: 120 }] };

afterEach(cleanup);

function open(
  asked: Asked,
  { mark = null, error = null }: { mark?: Mark | null; error?: Error | null } = {},
) {
  const action = () => ({ mutate: vi.fn(), isPending: false, error });
  const actions = { rescan: action(), grid: action(), ontoGrid: action() };
  const ask = vi.fn();
  const track = { id: 7, bpm: 120, title: "Copper Tide", key: "A minor", key_source: "analysis" };
  const data = { track, grid: GRID, heard: { tuning_cents: 0 } };
  const transport = { state: { playing: false } };
  const bench = { track: { data, actions }, chosen: { mark }, transport, asked, ask } as unknown as Bench;
  render(
    <App>
      <Dialogs bench={bench} />
    </App>,
  );
  return { ...actions, ask, user: userEvent.setup() };
}

test("a rescan is of the marked stretch and of the chosen kind, and Cancel ends it", async () => {
  const { rescan, ask, user } = open("rescan", { mark: { from: 61, to: 75.5 } });
  screen.getByText("Rescan 1:01.0 to 1:15.5");
  await user.click(screen.getByLabelText(/Stepped/));
  await user.click(screen.getByRole("button", { name: "Rescan" }));
  const sent = rescan.mutate.mock.calls[0]?.[0] as { signal: AbortSignal };
  expect(sent).toMatchObject({ kind: "stepped", start_s: 61, end_s: 75.5 });
  await user.click(screen.getByText("Cancel"));
  expect(sent.signal.aborted).toBe(true);
  expect(ask).toHaveBeenCalledWith(null);
});

test("what a rescan did not find is said in the dialog", () => {
  open("rescan", { error: new Error("No beat was found there.") });
  screen.getByText("Rescan the whole track");
  expect(screen.getByRole("alert").textContent).toContain("No beat was found there.");
});

test("a tempo may have a comma, and none outside the limits is sent", async () => {
  const { grid, user } = open("tempo");
  const box = screen.getByLabelText("Beats per minute");
  await user.clear(box);
  await user.type(box, "12{Enter}");
  screen.getByText("A tempo must lie between 30 and 300");
  expect(grid.mutate).not.toHaveBeenCalled();
  await user.type(box, "4,25{Enter}");
  expect(grid.mutate).toHaveBeenCalledExactlyOnceWith({ edit: "set tempo", bpm: 124.25, hold_s: 61.5 });
});

test("Enter in another track's name takes that track, then its tempo, and never the tempo above", async () => {
  const rows = [{ id: 8, bpm: 122.5, title: "Copper Line", artist: "Kelp Union" }];
  serve({ "POST /api/tracks/find": () => ({ rows, total: 1 }) });
  const { grid, user } = open("tempo");
  const name = screen.getByLabelText("Or as in another track");
  await user.type(name, "zz{Enter}");
  expect(grid.mutate).not.toHaveBeenCalled();
  await user.clear(name);
  await user.type(name, "copper");
  await screen.findByRole("option", { name: /Copper Line/ });
  await user.keyboard("{Enter}");
  screen.getByText(/122.500 bpm/);
  expect(grid.mutate).not.toHaveBeenCalled();
  await user.keyboard("{Enter}");
  expect(grid.mutate).toHaveBeenCalledExactlyOnceWith({
    edit: "take from another track",
    track_id: 8,
    what: "tempo",
    hold_s: 61.5,
  });
});

test("cues go onto the grid after it was shown how far, to the unit that is chosen", async () => {
  const moves = [
    { cue_id: 1, label: "verse", from_s: 8.02, by_ms: -20 },
    { cue_id: 2, label: "", from_s: 16, by_ms: 0 },
  ];
  const asked = serve({ "POST /api/tracks/7/cues/onto-grid": moves });
  const { ontoGrid, user } = open("onto grid");
  await screen.findByText("−20.0 ms");
  screen.getByText("stays");
  await user.click(screen.getByRole("combobox"));
  await user.click(screen.getByRole("option", { name: "bar" }));
  await waitFor(() => expect(asked.at(-1)?.body).toEqual({ snap: "bar", apply: false }));
  await user.click(await screen.findByText("Move 1"));
  expect(ontoGrid.mutate.mock.calls[0]?.[0]).toEqual({ snap: "bar", apply: true });
});

test("a template says what it would set before it is used", async () => {
  const cue = { position_s: 56, label: "ready", length_s: null, there: false };
  const result = {
    track_id: 7,
    title: "Copper Tide",
    hindrance: "",
    made: [],
    wanted: [cue, { ...cue, there: true }],
  };
  const asked = serve({
    "GET /api/templates": [{ id: 3, name: "Ready", cues: [{}] }],
    "POST /api/templates/3/preview": { results: [result], more: 0 },
    "POST /api/templates/3/use": { cues: 1, tracks: 1, hindered: 0, job: null },
  });
  const { user } = open("template");
  await user.click(await screen.findByText("Set 1 cue"));
  await waitFor(() =>
    expect(asked.at(-1)).toEqual({ what: "POST /api/templates/3/use", body: { ids: [7] } }),
  );
  await screen.findByText("1 cue set on 1 track.");
});

test("the rules of a finished track are read, changed and sent whole", async () => {
  const rules = { grid: "sure", cues: 3, roles: ["in", "out"], key: false, stars: true };
  const asked = serve({ "GET /api/finish-rules": rules, "PUT /api/finish-rules": rules });
  const { user } = open("finish");
  await user.click(await screen.findByLabelText("main set"));
  await user.click(screen.getByLabelText("it has stars"));
  await user.click(screen.getByText("Save"));
  await waitFor(() => expect(asked.some(({ what }) => what.startsWith("PUT"))).toBe(true));
  const sent = asked.find(({ what }) => what.startsWith("PUT"))?.body;
  expect(sent).toEqual({ ...rules, roles: ["in", "out", "main"], stars: false });
});

test("a source is preferred for all tracks after it was shown what that changes", async () => {
  const value = { field: "key", doubt: null, changed_at: "", text: "A minor", source: "analysis" };
  const rule = { field: "key", order: ["another library", "analysis", "file tag", "file name"] };
  const asked = serve({
    "GET /api/tracks/7/values": [
      { ...value, origin: "analysis", wins: true },
      { ...value, source: "file tag", origin: "file tag", text: "C major", wins: false },
    ],
    "GET /api/value-rules": [rule],
    "POST /api/value-rules/preview": {
      tracks: 12,
      examples: [{ title: "Breakwater", before: "F major", after: "D minor" }],
    },
    "PUT /api/value-rules": [rule],
  });
  const { user } = open("sources");
  await user.click(await screen.findByLabelText("Prefer file tag for key"));
  await screen.findByText("D minor");
  screen.getByText("and 11 more tracks");
  await user.click(screen.getByText("Change 12 tracks"));
  await waitFor(() => expect(asked.some(({ what }) => what === "PUT /api/value-rules")).toBe(true));
  const order = ["file tag", "another library", "analysis", "file name"];
  expect(asked.find(({ what }) => what.startsWith("PUT"))?.body).toEqual({ field: "key", order });
});

test("a crate that is typed and not there is made, and the track put into it", async () => {
  const crate = { id: 4, name: "Friday", tracks: 0, duration_s: 0 };
  const asked = serve({
    "GET /api/crates": [crate],
    "POST /api/crates": { ...crate, id: 5, name: "Saturday" },
    "POST /api/crates/5/tracks": { added: 1 },
  });
  const { user } = open("crate");
  await screen.findByText("Friday");
  await user.type(screen.getByLabelText("Crate"), "Saturday{Enter}");
  await waitFor(() => expect(asked.map(({ what }) => what)).toContain("POST /api/crates/5/tracks"));
  expect(asked.find(({ what }) => what === "POST /api/crates")?.body).toMatchObject({ name: "Saturday" });
});

test("a key is gone to by arrows, each heard as it is reached, and set by Enter", async () => {
  const asked = serve({ "PUT /api/tracks/values": { locked: 0 } });
  const { ask, user } = open("key");
  await screen.findByText("Set A minor");
  expect(sounds.mock.lastCall?.[0].map(Math.round)).toEqual([110, 131, 165, 220]);
  await user.keyboard("{ArrowRight}");
  screen.getByText("Set E minor");
  await user.keyboard("{ArrowUp}");
  screen.getByText("Set G major");
  expect(Math.round(sounds.mock.lastCall?.[0][0] ?? 0)).toBe(196);
  await user.keyboard(" ");
  expect(engine.toggle).toHaveBeenCalled();
  await user.click(screen.getByText("Its root"));
  expect(sounds.mock.lastCall?.[0].length).toBe(2);
  screen.getByLabelText("Key, by arrows").focus();
  await user.keyboard("{Enter}");
  await waitFor(() => expect(asked.at(-1)?.body).toEqual({ ids: [7], values: { key: "G major" } }));
  await waitFor(() => expect(ask).toHaveBeenCalledWith(null));
  cleanup();
  expect(silence).toHaveBeenCalled();
});
