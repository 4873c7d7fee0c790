// @vitest-environment jsdom
/** The room of sets: what is placed, moved, pinned and ordered by key is what the server is asked for. */
import { serve } from "../../testing-server";
import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, expect, test } from "vitest";
import { App } from "../../testing";
import { SetsPage } from "./sets-page";

const facts = { id: 4, name: "Slipway Friday", venue_id: 1, venue: "The Slipway", on_day: "2026-12-04" };
const LINE = { ...facts, begins: "22:00", ends: "23:00", placed: 3, in_tray: 1 };
const entry = (id: number, title: string, more: object = {}) => ({
  ...{ id, track_id: id, title, artist: "Kelp Union", on_shelf: true, pin: "", with_next: false, note: "" },
  ...{ bpm: 120 + id, key: "A minor", energy: 40 + id, duration_s: 200, main_s: 30, explicit: false },
  ...{ begins_s: 180 * (id - 1), at: `22:0${id}`, cautions: [], last_here: "", times_here: 0, ...more },
});
const here = { kind: "here", words: "played here 27 Nov", help: "something else for this time" };
const jump = { kind: "tempo", words: "+14 % is a jump", help: "something near 130 bpm between them" };
const joint = (out_id: number, cautions: object[] = []) => ({
  ...{ out_id, in_id: out_id + 1, over_s: 31, works: null, note: "", cautions },
  settings: { over_bars: 16, meet: "first", out_s: null, in_s: null, fade_bars: null, low_bar: null },
  words: ["+0.8 %", "same key", "energy +1"],
});
const SET = {
  ...LINE,
  ...{ note: "", tempo_percent: 6, key_held: true, slot_s: 3600, lasts_s: 560 },
  arc: [{ share: 0.5, energy: 60 }],
  order: [
    entry(1, "Anchor"),
    entry(2, "Buoy", { cautions: [here], last_here: "27 Nov", times_here: 2 }),
    entry(3, "Cleat"),
  ],
  tray: [entry(9, "Dock")],
  joints: [joint(1), joint(2, [jump])],
};
const GOES_ON = [
  {
    ...{
      track_id: 7,
      title: "Ebb",
      artist: "Kelp Union",
      bpm: 121,
      key: "E minor",
      energy: 50,
      duration_s: 180,
    },
    ...{ main_s: null, in_tray: false, score: 0.9, reasons: ["a fifth up", "sounds alike"], doubts: [] },
  },
];

beforeEach(() => {
  Element.prototype.scrollIntoView = () => undefined;
});
afterEach(cleanup);

function show(given: Record<string, unknown> = {}) {
  localStorage.clear();
  localStorage.setItem("vinyl.sets.parts", '{"key":2}');
  const asked = serve({
    "GET /api/sets": [LINE],
    "GET /api/sets/4": SET,
    "GET /api/sets/4/suggestions": GOES_ON,
    "GET /api/sets/4/chain": [],
    "GET /api/venues": [],
    "GET /api/gigs": [],
    "GET /api/crates": [],
    "POST /api/sets/4/tracks": { added: 1 },
    "POST /api/sets/4/move": null,
    "POST /api/sets/4/remove": null,
    "POST /api/sets/4/order": { entry_ids: [3, 1, 2], cost_before: 4, cost_after: 1 },
    "PUT /api/sets/4/order": null,
    "PUT /api/sets/4/arc": null,
    "PATCH /api/sets/4/entries/2": null,
    "PUT /api/sets/4/joint": null,
    ...given,
  });
  render(
    <App>
      <MemoryRouter>
        <SetsPage />
      </MemoryRouter>
    </App>,
  );
  const told = (what: string) => asked.filter((each) => each.what === what).map(({ body }) => body);
  return { told, user: userEvent.setup() };
}

test("repeats and jumps are in sight, with how long it is against its slot", async () => {
  show();
  await screen.findByText("of 1:00", { exact: false });
  expect(screen.getByText("27 Nov !").title).toBe("played here 2 times: something else for this time");
  expect(screen.getByText("16 bars over · +14 % is a jump")).toBeTruthy();
  expect(screen.getByText("2 to look at")).toBeTruthy();
});

test("by key a track is pinned, moved, and goes back into the tray", async () => {
  const { told, user } = show();
  await screen.findByText("27 Nov !");
  await user.keyboard("{ArrowDown}h");
  expect(told("PATCH /api/sets/4/entries/2")).toEqual([{ pin: "here" }]);
  await user.keyboard("{Alt>}{ArrowUp}{/Alt}");
  await user.keyboard("{Delete}");
  await waitFor(() =>
    expect(told("POST /api/sets/4/move")).toEqual([
      { entry_ids: [2], placed: true, before: 1 },
      { entry_ids: [1], placed: false, before: null },
    ]),
  );
});

test("the tray, and what goes on from a track, are placed after it", async () => {
  const { told, user } = show();
  await screen.findByText("Dock");
  await user.keyboard("{ArrowRight}{Enter}");
  await waitFor(() =>
    expect(told("POST /api/sets/4/move")).toEqual([{ entry_ids: [9], placed: true, before: 2 }]),
  );
  await user.keyboard("y");
  await screen.findByText("a fifth up · sounds alike");
  await user.keyboard("t{Enter}");
  await waitFor(() => expect(told("POST /api/sets/4/tracks")).toHaveLength(2));
  expect(told("POST /api/sets/4/tracks")[0]).toEqual({ ids: [7], placed: false });
  expect(told("POST /api/sets/4/tracks")[1]).toMatchObject({ ids: [7], placed: true });
});

test("a chain goes on, back and branches, and the way one went is placed", async () => {
  const steps: object[] = [];
  const goes = (id: number, title: string) => ({ ...GOES_ON[0], track_id: id, title });
  const held = { on_shelf: true, held: "", bpm: 120, key: "A minor", energy: 5, duration_s: 9, main_s: null };
  const { told, user } = show({
    "GET /api/sets/4/chain": () => [...steps],
    "GET /api/sets/4/suggestions": [goes(1, "Anchor"), goes(7, "Ebb"), goes(8, "Flow")],
    "POST /api/sets/4/chain": (body: { track_id: number; from_id: number | null }) => {
      const id = steps.length + 1;
      steps.push({ ...held, ...body, id, title: `Step ${id}`, artist: "" });
      return { id };
    },
  });
  await screen.findByText("Dock");
  await user.keyboard("{ArrowRight}yy");
  await screen.findByText("Where a chain begins");
  await user.keyboard("{Enter}");
  await screen.findByText("On from Step 1");
  await screen.findByText("On from Step 1");
  await screen.findByText("Flow");
  expect(document.querySelector("[data-line=Anchor]")).toBeNull();
  await user.keyboard("{Enter}");
  await screen.findByText("On from Step 2");
  await user.keyboard("b");
  await screen.findByText("On from Step 1");
  await screen.findByText("Flow");
  await user.keyboard("{ArrowDown}t{Enter}");
  await screen.findByText("On from Step 3");
  expect(told("POST /api/sets/4/chain")).toEqual([
    { track_id: 1, from_id: null },
    { track_id: 7, from_id: 1 },
    { track_id: 8, from_id: 1 },
  ]);
  await user.keyboard("{Alt>}{ArrowDown}{/Alt}");
  await screen.findByText("On from Step 2");
  await user.keyboard("{Shift>}{Enter}{/Shift}");
  const added = () => told("POST /api/sets/4/tracks");
  await waitFor(() => expect(added()).toHaveLength(2));
  expect(added()).toEqual([
    { ids: [8], placed: false },
    { ids: [1, 7], placed: true, before: 2 },
  ]);
});

test("a second Enter before the first is answered goes nowhere from where one was", async () => {
  let answer: (step: { id: number }) => void = () => undefined;
  const { told, user } = show({
    "POST /api/sets/4/chain": () => new Promise<{ id: number }>((resolve) => (answer = resolve)),
  });
  await screen.findByText("Dock");
  await user.keyboard("{ArrowRight}yy");
  await screen.findByText("Where a chain begins");
  await user.keyboard("{Enter}{ArrowDown}{Enter}");
  await waitFor(() => expect(told("POST /api/sets/4/chain")).toHaveLength(1));
  answer({ id: 1 });
  expect(told("POST /api/sets/4/chain")).toEqual([{ track_id: 1, from_id: null }]);
});

test("an order is compared before it is taken", async () => {
  const { told, user } = show();
  await screen.findByText("27 Nov !");
  await user.keyboard("o");
  await screen.findByText("By this measure 75 % better than now.", { exact: false });
  expect(told("PUT /api/sets/4/order")).toEqual([]);
  expect(told("POST /api/sets/4/order")).toEqual([{ by: "tempo", entry_ids: [1, 2, 3] }]);
  await user.click(screen.getByRole("button", { name: "Take this order" }));
  await waitFor(() => expect(told("PUT /api/sets/4/order")).toEqual([{ entry_ids: [3, 1, 2] }]));
});

test("the arc is drawn by key, and a row of keys is one step", async () => {
  let arc: unknown = SET.arc;
  const { told, user } = show({
    "GET /api/sets/4": () => ({ ...SET, arc }),
    "PUT /api/sets/4/arc": (body: { points: unknown }) => {
      arc = body.points;
      return null;
    },
  });
  await screen.findByText("27 Nov !");
  const arcs = () => told("PUT /api/sets/4/arc") as { points: { share: number; energy: number }[] }[];
  const share = 90 / SET.slot_s;
  await user.keyboard("a");
  await waitFor(() => expect(arcs()).toEqual([{ points: [{ share, energy: 41 }, ...SET.arc] }]));
  const point = await screen.findByRole("slider", {
    name: "A point of the arc you want",
    value: { now: 41 },
  });
  expect(document.activeElement).toBe(point);
  await user.keyboard("{ArrowUp}{ArrowUp}{Shift>}{ArrowDown}{/Shift}{ArrowRight}{Enter}");
  await waitFor(() => expect(arcs()).toHaveLength(2));
  expect(arcs()[1]?.points[0]).toEqual({ share: share + 0.02, energy: 50 });
  await user.keyboard("a{ArrowUp}{Control>}z{/Control}");
  expect(told("POST /api/undo")).toEqual([]);
  await user.keyboard("{Delete}");
  await waitFor(() => expect(arcs().at(-1)?.points).toEqual(SET.arc));
  expect(told("POST /api/sets/4/move")).toEqual([]);
  await user.keyboard("{Escape}a{ArrowDown}");
  cleanup();
  await waitFor(() => expect(arcs().at(-1)?.points[0]?.energy).toBe(36));
});

test("what weighs is the user’s, and stays so", async () => {
  const { told, user } = show();
  await screen.findByText("27 Nov !");
  await user.keyboard("o");
  await user.click(await screen.findByRole("radio", { name: "All of it, weighed" }));
  const keys = await screen.findByRole("slider", { name: "Keys together" });
  keys.focus();
  await user.keyboard("{End}");
  const usual = { tempo: 0.5, keys: 0.5, arc: 0.6, rise: 0.2 };
  await waitFor(() =>
    expect(told("POST /api/sets/4/order").at(-1)).toMatchObject({ weights: { ...usual, keys: 2 } }),
  );
  expect(localStorage.getItem("vinyl.sets.weights")).toContain('"keys":2');
});

test("without a set it says what one is, and makes one", async () => {
  const { told, user } = show({ "GET /api/sets": [], "POST /api/sets": { id: 4 } });
  await screen.findByText("No set is planned yet");
  await user.keyboard("{Shift>}n{/Shift}");
  await user.type(await screen.findByLabelText("Name"), "New Year");
  await user.click(screen.getByRole("button", { name: "Make it" }));
  await waitFor(() => expect(told("POST /api/sets")).toMatchObject([{ name: "New Year", venue: "" }]));
});

test("what is said by hand of a track's clearance is sent, and the verdict stands above", async () => {
  const line = (track_id: number, title: string, state: string, more: object = {}) => ({
    ...{ track_id, title, artist: "Kelp Union", at: "22:01", state, places: [], condition: "", source: "" },
    ...{ on_day: "", is_doubtful: state !== "free", ...more },
  });
  const { told, user } = show({
    "GET /api/sets/4/clearance": {
      may: "no",
      words: ["one track blocked everywhere"],
      lines: [
        line(1, "Anchor", "free"),
        line(2, "Buoy", "blocked", { places: ["Ostmark"], source: "a label" }),
      ],
    },
    "POST /api/sets/4/clearance/ask": {
      changed: 0,
      not_known: 1,
      by_hand: 2,
      notes: ["row 3: “?” is no state"],
    },
    "PUT /api/sets/4/clearance": null,
  });
  await screen.findByText("27 Nov !");
  await user.keyboard("{Shift>}c{/Shift}");
  await screen.findByText("Its recording may not be published: one track blocked everywhere.");
  await user.keyboard("{ArrowDown}");
  const form = within(screen.getByRole("form", { name: "Clearance of Buoy" }));
  const where = form.getByLabelText("Where; everywhere if empty");
  expect(where).toHaveProperty("value", "Ostmark");
  await user.type(where, ", Skerries{Enter}");
  const said = { track_ids: [2], state: "blocked", places: "Ostmark, Skerries", condition: "" };
  await waitFor(() => expect(told("PUT /api/sets/4/clearance")).toEqual([said]));
  await user.keyboard("{Shift>}{Tab}{/Shift}{Shift>}{Tab}{/Shift}");
  await user.type(screen.getByLabelText("On which condition"), "till May");
  await user.click(screen.getByText("Anchor", { selector: "[role=option] *" }));
  expect(told("PUT /api/sets/4/clearance").slice(1)).toEqual([
    { ...said, places: "Ostmark, Skerries", condition: "till May" },
  ]);
  await user.click(screen.getByLabelText("Only what has to be looked at"));
  expect(screen.getAllByRole("option")).toHaveLength(1);
  await user.click(screen.getByText("Ask the rights register"));
  await screen.findByText(
    "Nothing new · nothing said of 1 · 2 said by hand stay as they are · not understood: row 3: “?” is no state.",
  );
});
