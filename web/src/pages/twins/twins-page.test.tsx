// @vitest-environment jsdom
/** The room of twins: groups gone through by key, compared, chosen and settled as they were seen. */
import { serve } from "../../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { App } from "../../testing";
import { TwinsPage } from "./twins-page";

const line = (title: string, kind: string, track_ids: number[], more: object = {}) => ({
  ...{ title, artist: "Kelp Union", kind, track_ids, files: track_ids.length, bytes: 4e6, later: false },
  ...{ words: `${kind}: ${title}`, ...more },
});
const LINES = [
  line("Anchor", "sure", [1, 2]),
  line("Buoy", "same", [3, 4]),
  line("Cleat", "edit", [5, 6], { bytes: 0 }),
];
const track = (track_id: number, more: object = {}) => ({
  ...{ track_id, title: "Anchor", artist: "Kelp Union", path: `/music/here/Anchor ${track_id}.mp3` },
  ...{ codec: "MP3", bit_rate: 192000, size_bytes: 4e6, duration_s: 180, away: false, findings: [] },
  ...{ bpm: 124, key: "A minor", lufs: -10, grid_by_hand: false, locks: [], cues: 0, points: [], routes: 0 },
  ...{ plays: 0, last_played: null, stars: 0, tags: [], lists: [], year: 2024, label: "", genre: "House" },
  ...{ added_at: "2026-11-01T10:00:00+00:00", speed: 1, offset_s: 0, likeness: null, relation: "same" },
  ...more,
});
const GROUP = {
  ...{ track_ids: [1, 2], kind: "sure", words: "same recording", later: false, copies: [], kept_id: 1 },
  reason: "the better sound",
  tracks: [
    track(1, { codec: "FLAC", bit_rate: null }),
    track(2, {
      offset_s: 0.41,
      plays: 12,
      cues: 3,
      year: 2019,
      lists: ["Quay", "Pier", "Slip"],
      likeness: 0.97,
    }),
  ],
};
const CARRIED = {
  carried: ["3 cues (moved by -0.41 s)", "12 plays"],
  differs: [{ field: "year", kept: "2024", other: "2019", from_id: 2, carried: false, by_hand: true }],
  lost: ["1 cue outside the kept file"],
  seal: "abc",
};

beforeEach(() => {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
  Element.prototype.scrollTo = () => undefined;
  // A list of which all rows are seen.
  vi.spyOn(Element.prototype, "clientHeight", "get").mockReturnValue(600);
  vi.spyOn(Element.prototype, "clientWidth", "get").mockReturnValue(260);
  vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(null);
  Object.defineProperty(document, "fonts", {
    value: { addEventListener: vi.fn(), removeEventListener: vi.fn() },
    configurable: true,
  });
});

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

function show(given: Record<string, unknown> = {}) {
  localStorage.clear();
  const asked = serve({
    "GET /api/twins": { groups: LINES, unseen: 0 },
    "GET /api/jobs": [],
    "GET /api/cue-colours": [],
    "POST /api/twins/group": (body: { track_ids: number[] }) => ({ ...GROUP, track_ids: body.track_ids }),
    "POST /api/twins/look": CARRIED,
    "POST /api/twins/settle": null,
    "POST /api/twins/not": null,
    "POST /api/twins/later": null,
    "POST /api/twins/search": null,
    "PUT /api/versions": null,
    "PUT /api/twins/order": null,
    ...given,
  });
  render(
    <App>
      <MemoryRouter>
        <TwinsPage />
      </MemoryRouter>
    </App>,
  );
  const told = (what: string) => asked.filter((each) => each.what === what).map(({ body }) => body);
  return { told, user: userEvent.setup() };
}

test("the list says how many there are and what they take, and shows one kind", async () => {
  const { user } = show();
  await screen.findByText("3 groups, 8.0 MB");
  const names = () => screen.queryAllByRole("option").map((each) => each.getAttribute("data-group"));
  await waitFor(() => expect(names()).toEqual(["Anchor", "Buoy", "Cleat"]));
  await user.click(screen.getByRole("button", { name: "edits 1" }));
  await waitFor(() => expect(names()).toEqual(["Cleat"]));
  await user.click(screen.getByRole("button", { name: "listen 1" }));
  await waitFor(() => expect(names()).toEqual(["Buoy"]));
});

test("a group is settled by ↵ as it was seen, with the other's word where that was taken", async () => {
  const { told, user } = show();
  await screen.findByText(/3 cues \(moved by -0.41 s\), 12 plays/);
  screen.getByText("Not carried over: 1 cue outside the kept file.");
  screen.getByText(/2 starts 0.41 s later/);
  screen.getByText("Quay, Pier, 1 more");
  await user.click(screen.getByRole("button", { name: "Take the other" }));
  await waitFor(() => expect(told("POST /api/twins/look").at(-1)).toMatchObject({ choices: { year: 2 } }));
  (document.activeElement as HTMLElement).blur(); // as the page does after a click
  await user.keyboard("{Enter}");
  await waitFor(() =>
    expect(told("POST /api/twins/settle")).toEqual([
      { kept_id: 1, copy_ids: [2], copies: [], choices: { year: 2 }, seal: "abc", aside: true },
    ]),
  );
  await screen.findByText(/1 file gave way/);
});

test("the copy that is heard is kept by key, or stays too; then nothing is left to settle", async () => {
  const { told, user } = show();
  await screen.findByText(/Copy 1 is heard/);
  await user.keyboard("2");
  await screen.findByText(/Copy 2 is heard/);
  await user.keyboard("k");
  await screen.findByRole("button", { name: /Keep the second/ });
  await waitFor(() =>
    expect(told("POST /api/twins/look").at(-1)).toMatchObject({ kept_id: 2, copy_ids: [1] }),
  );
  await user.keyboard("1x");
  await screen.findByText(/Choose which file gives way/);
  const settle = screen.getByRole("button", { name: /Keep the second/ });
  expect((settle as HTMLButtonElement).disabled).toBe(true);
  await user.keyboard("{Enter}");
  expect(told("POST /api/twins/settle")).toEqual([]);
});

test("the next group is open after ↓; it is marked for later, said to be no twins, or linked as versions", async () => {
  const { told, user } = show();
  await screen.findByText("Anchor, twice");
  await user.keyboard("{ArrowDown}");
  await screen.findByText("Buoy, twice");
  await user.keyboard("l");
  await waitFor(() => expect(told("POST /api/twins/later")).toEqual([{ track_ids: [3, 4], later: true }]));
  await user.keyboard("n");
  await waitFor(() => expect(told("POST /api/twins/not")).toEqual([{ track_ids: [3, 4] }]));
  await user.keyboard("v");
  const [kind] = await screen.findAllByLabelText("Kind");
  if (!kind) throw new Error("no kind to type");
  await user.type(kind, "radio");
  await user.click(screen.getByRole("button", { name: "Link them" }));
  await waitFor(() =>
    expect(told("PUT /api/versions")[0]).toMatchObject({ name: "Anchor", kinds: { 1: "radio" } }),
  );
});

test("versions are proposed to stay: nothing gives way before it is chosen", async () => {
  const { user } = show();
  await screen.findByText("Anchor, twice");
  await user.keyboard("{ArrowDown}{ArrowDown}");
  await screen.findByText("Cleat, twice");
  await screen.findByText(/Choose which file gives way/);
});

test("all sure groups are settled after what that comes to, with the files left where they are if wished", async () => {
  const told = { groups: 1, files: 1, bytes: 4e6, cues: 3, plays: 12, places: 2, away: 1 };
  const { told: sent, user } = show({
    "GET /api/twins/sure": { ...told, samples: [{ title: "Anchor", carried: ["3 cues"] }] },
    "POST /api/twins/sure": { id: 3 },
  });
  await screen.findByText("Anchor, twice");
  await user.keyboard("{Shift>}{Enter}{/Shift}");
  await screen.findByText("Settle 1 sure group");
  screen.getByText(/3 cues, 12 plays, 2 places in lists, what grids/);
  screen.getByText(/1 file on a drive that is away/);
  const [, aside] = screen.getAllByLabelText(/Put the files aside/);
  await user.click(aside ?? screen.getByLabelText(/Put the files aside/));
  await user.keyboard("{Enter}");
  await waitFor(() => expect(sent("POST /api/twins/sure")).toEqual([{ aside: false }]));
});

test("the order of reasons is changed by its arrows, and folders are lines", async () => {
  const reasons = ["sound", "work", "plays", "lists", "tags", "folder"];
  const { told, user } = show({ "GET /api/twins/order": { reasons, folders: ["/music/best"] } });
  await screen.findByText("Anchor, twice");
  await user.keyboard("o");
  await user.click(await screen.findByRole("button", { name: "folder earlier" }));
  await user.click(screen.getByRole("button", { name: "sound later" }));
  await user.type(screen.getByLabelText(/Folders/), "\n/music/next/");
  await user.click(screen.getByRole("button", { name: "Save" }));
  await waitFor(() =>
    expect(told("PUT /api/twins/order")).toEqual([
      {
        reasons: ["work", "sound", "plays", "lists", "folder", "tags"],
        folders: ["/music/best", "/music/next"],
      },
    ]),
  );
});

test("without groups it is said why, and all is looked at once more by a button", async () => {
  const { told, user } = show({ "GET /api/twins": { groups: [], unseen: 0 } });
  await screen.findByText("No file is here twice");
  await user.click(screen.getByRole("button", { name: "Look at all tracks once more" }));
  await waitFor(() => expect(told("POST /api/twins/search")).toHaveLength(1));
});

test("while it is looked for, how far that is stands above", async () => {
  const job = {
    ...{ id: 1, kind: "twins", subject: "Twins", state: "running", done: 200, total: 1000, unit: "pair" },
    ...{ current: "", seconds_left: null, failures: 0, payload: {}, made_at: "", finished_at: null },
  };
  show({ "GET /api/jobs": [job] });
  await screen.findByText(/Looking for twins: 200 of 1,000 pairs/);
});
