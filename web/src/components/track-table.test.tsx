// @vitest-environment jsdom
/** The table of tracks under hands: choosing by click and by key, and being drawn only when something is different. */
import { DndContext } from "@dnd-kit/core";
import { serve } from "../testing-server";
import { act, cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Profiler } from "react";
import { afterEach, beforeAll, expect, onTestFinished, test, vi } from "vitest";
import type { Track } from "../api/client";
import { App } from "../testing";
import { fitting, GIVING_WAY, USUAL } from "./track-columns";
import { TrackTable } from "./track-table";
import type { TrackSource } from "./tracks";
import { useSelection } from "./use-selection";

const COUNT = 1000;

beforeAll(() => {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
  Object.defineProperty(Element.prototype, "clientHeight", { value: 600 });
  Object.defineProperty(Element.prototype, "clientWidth", { value: 1200 });
  HTMLElement.prototype.scrollTo = () => undefined;
});
afterEach(cleanup);

const track = (place: number) =>
  ({
    ...{
      id: 1000 + place,
      title: `Song ${place}`,
      artist: "Kelp Union",
      album: "",
      genre: "House",
      year: null,
    },
    ...{ bpm: 120, bpm_source: "analysis", key: "A minor", key_source: "analysis", key_confidence: 0.9 },
    ...{
      energy: 50,
      lufs: -9,
      duration_s: 200,
      rating: 3,
      doubt: 0,
      doubt_reasons: [],
      findings: [],
      locks: [],
      left: [],
    },
    ...{
      tags: [],
      lists: [],
      marks: "",
      colour: "",
      explicit: false,
      never_again: false,
      wanted: false,
      plays: 0,
    },
    ...{ last_played: null, main_s: null, backing: null },
    ...{ cues: "", cue_count: 0, routes: 0, away: false, replaced: false, has_picture: false },
    ...{ analysis_state: "done", analysis_error: null, added_at: "2026-11-25T10:00:00+00:00", label: "" },
  }) as unknown as Track;

const source: TrackSource = {
  total: COUNT,
  library: COUNT,
  found: null,
  readAs: null,
  settled: true,
  failure: null,
  trackIdOf: (id: number) => id,
  idAt: (place) => 1000 + place,
  trackAt: track,
  placeOf: (id) => id - 1000,
  show: () => undefined,
  idsBetween: (from, to) => Promise.resolve(Array.from({ length: to - from + 1 }, (_, i) => 1000 + from + i)),
};

const drawn = vi.fn();
const opened = vi.fn();
const sorted = vi.fn();

function Table() {
  const selection = useSelection(source);
  return (
    <TrackTable
      source={source}
      selection={selection}
      list="test"
      sorts={[{ sort: "title", descending: false }]}
      onSort={sorted}
      onOpen={opened}
      onPutIntoCrate={() => undefined}
      label="Tracks"
      view="all"
    />
  );
}

function show() {
  drawn.mockClear();
  render(
    <App>
      <DndContext sensors={[]}>
        <Profiler id="table" onRender={drawn}>
          <Table />
        </Profiler>
      </DndContext>
    </App>,
  );
  return userEvent.setup();
}

const chosen = () =>
  screen
    .getAllByRole("row", { selected: true })
    .map((row) => row.getAttribute("data-track"))
    .join(" ");

test("only the rows in sight are drawn, of any number", () => {
  show();
  const rows = screen.getAllByRole("row").filter((row) => row.hasAttribute("data-track"));
  expect(rows.length).toBeGreaterThan(10);
  expect(rows.length).toBeLessThan(60);
  expect(screen.getByRole("grid").getAttribute("aria-rowcount")).toBe(String(COUNT + 1));
});

test("a click chooses, Shift chooses a range, Ctrl one more; and drawing comes to an end", async () => {
  const user = show();
  await user.click(screen.getByText("Song 2"));
  expect(chosen()).toBe("1002");
  await user.keyboard("{Shift>}");
  await user.click(screen.getByText("Song 4"));
  await user.keyboard("{/Shift}");
  expect(chosen()).toBe("1002 1003 1004");
  await user.keyboard("{Control>}");
  await user.click(screen.getByText("Song 7"));
  await user.keyboard("{/Control}");
  expect(chosen()).toBe("1002 1003 1004 1007");
  expect(drawn.mock.calls.length).toBeLessThan(40);
});

test("the keys go on from the row that was clicked, and Enter opens it", async () => {
  const user = show();
  await user.click(screen.getByText("Song 2"));
  await user.keyboard("{ArrowDown}{Shift>}{ArrowDown}{/Shift}");
  expect(chosen()).toBe("1003 1004");
  await user.keyboard("{Enter}");
  expect(opened).toHaveBeenCalledWith(1004, 4);
});

test("columns give way where there is no room, in their order, and never the title", () => {
  const usual = (roomPx: number, remPx: number) => fitting(USUAL, GIVING_WAY, roomPx, remPx);
  expect(usual(1240, 16)).not.toContain("LUFS");
  expect(usual(1240, 20).length).toBeLessThan(usual(1240, 16).length);
  expect(usual(0, 16)).toContain("Title");
  expect(fitting(["Title", "LUFS"], [], 0, 16)).toContain("LUFS");
});

test("a heading sorts, with Shift as a further sort, and again the other way", async () => {
  const user = show();
  await user.click(screen.getByRole("button", { name: "Artist" }));
  expect(sorted).toHaveBeenLastCalledWith([{ sort: "artist", descending: false }]);
  await user.keyboard("{Shift>}");
  await user.click(screen.getByRole("button", { name: "Tempo" }));
  await user.keyboard("{/Shift}");
  expect(sorted).toHaveBeenLastCalledWith([
    { sort: "title", descending: false },
    { sort: "bpm", descending: false },
  ]);
  await user.click(screen.getByRole("button", { name: /Title/ }));
  expect(sorted).toHaveBeenLastCalledWith([{ sort: "title", descending: true }]);
});

const cell = (name: string) => screen.getByLabelText(name) as HTMLInputElement;

test("cells are typed into: F2 begins, Tab keeps and goes on, Esc leaves it, an arrow goes to the next row", async () => {
  const asked = serve({ "PUT /api/tracks/values": { locked: 0 } });
  const user = show();
  await user.click(screen.getByText("Song 2"));
  await user.keyboard("[F2]");
  expect(cell("Title of Song 2").value).toBe("Song 2");
  await user.keyboard("Ebb{Tab}");
  expect(asked.at(-1)?.body).toEqual({ ids: [1002], values: { title: "Ebb" } });
  await user.keyboard("Nobody{Escape}");
  expect(screen.queryByLabelText("Artist of Song 2")).toBeNull();
  expect(asked.filter(({ what }) => what.startsWith("PUT")).length).toBe(1);
  await user.keyboard("[F2]");
  expect(cell("Artist of Song 2").value).toBe("Kelp Union");
  await user.keyboard("{ArrowDown}Flow{Enter}");
  expect(asked.at(-1)?.body).toEqual({ ids: [1003], values: { artist: "Flow" } });
  expect(chosen()).toBe("1003");
  await user.keyboard("[F2]{Shift>}{Tab}{/Shift}");
  cell("Title of Song 3");
  await user.keyboard("{Shift>}{Tab}{/Shift}");
  expect(chosen()).toBe("1002");
});

test("a slow second click types into a cell, a double click opens; what was typed is kept on leaving", async () => {
  const asked = serve({ "PUT /api/tracks/values": { locked: 0 } });
  const user = show();
  await user.dblClick(screen.getByText("Song 2"));
  expect(opened).toHaveBeenLastCalledWith(1002, 2);
  await user.click(screen.getByText("Song 5"));
  await user.click(screen.getByText("Song 5"));
  await waitFor(() => cell("Title of Song 5"));
  expect(screen.queryByLabelText("Title of Song 2")).toBeNull();
  await user.keyboard("Slack");
  await user.click(screen.getByText("Song 7"));
  expect(asked.at(-1)?.body).toEqual({ ids: [1005], values: { title: "Slack" } });
});

test("a key soon after a click on a cell means the row: what it opens keeps the letters", async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true });
  onTestFinished(() => void vi.useRealTimers());
  serve({ "PUT /api/tracks/values": { locked: 0 } });
  const user = show();
  await user.click(screen.getByText("Song 5"));
  await user.click(screen.getByText("Song 5"));
  await user.keyboard("{ArrowDown}");
  await act(() => vi.advanceTimersByTimeAsync(1000));
  expect(screen.queryByLabelText("Title of Song 5")).toBeNull();
  expect(chosen()).toBe("1006");
});

test("what is refused is there again to be mended", async () => {
  serve({
    "PUT /api/tracks/values": new Response('{"detail": "A year has four digits."}', { status: 422 }),
  });
  const user = show();
  await user.click(screen.getByText("Song 2"));
  await user.keyboard("[F2]Tide?{Enter}");
  await screen.findByText("A year has four digits.");
  expect(cell("Title of Song 2").value).toBe("Tide?");
  await user.keyboard("{Escape}");
  expect(screen.queryByLabelText("Title of Song 2")).toBeNull();
});
