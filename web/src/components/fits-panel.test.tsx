// @vitest-environment jsdom
/** What fits, taken further by key: into a crate, after the present track, on from it and back. */
import { DndContext } from "@dnd-kit/core";
import { serve } from "../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import type { Track } from "../api/client";
import { MemoryRouter } from "react-router";
import { App } from "../testing";
import { FitsPanel } from "./fits-panel";

afterEach(cleanup);

const track = (id: number, title: string) =>
  ({
    id,
    title,
    artist: "Kelp Union",
    bpm: 120,
    key: "A minor",
    duration_s: 200,
    main_s: null,
  }) as unknown as Track;
const fit = (id: number, title: string) => ({
  track: track(id, title),
  reasons: ["same key"],
  cents: 0,
  heard_key: null,
});

function show() {
  const hands = { put: vi.fn(), after: vi.fn(), leave: vi.fn() };
  const asked = serve({
    "POST /api/tracks/1/fits": [fit(2, "Ebb"), fit(3, "Flow")],
    "POST /api/tracks/3/fits": [fit(4, "Slack")],
    "POST /api/crates/9/tracks": { added: 1, already_in: 0, warnings: [] },
  });
  localStorage.clear();
  const panel = (of: Track | undefined) => (
    <App>
      <MemoryRouter>
        <DndContext>
          <FitsPanel
            track={of}
            onPutIntoCrate={hands.put}
            onPutAfter={hands.after}
            onLeave={hands.leave}
            onClose={() => undefined}
          />
        </DndContext>
      </MemoryRouter>
    </App>
  );
  const { rerender } = render(panel(track(1, "Copper Tide")));
  /** As it is while the list is read anew. */
  const between = () => rerender(panel(undefined));
  return { ...hands, asked, between, user: userEvent.setup() };
}

const chosen = () => screen.getByRole("option", { selected: true }).textContent;

test("what is pressed while the list is read anew is about the track before", async () => {
  const { between, user } = show();
  await screen.findByText("Flow");
  screen.getByRole("listbox").focus();
  between();
  await user.keyboard("{ArrowDown}{ArrowRight}");
  await screen.findByText("Slack");
  screen.getByText("← Back to Copper Tide");
});

test("a line is gone to, put into a crate, after the present track, gone on from and back", async () => {
  const { user, put, after, leave, asked } = show();
  await screen.findByText("Ebb");
  await user.keyboard("{Alt>}[KeyF]{/Alt}");
  await user.keyboard("{ArrowDown}");
  expect(chosen()).toContain("Flow");
  await user.keyboard("p");
  expect(put).toHaveBeenLastCalledWith({ chosen: { ids: [3] }, count: 1 });
  await user.keyboard("a");
  expect(after).toHaveBeenLastCalledWith(3);
  await user.keyboard("C");
  await screen.findByText(/No crate was used yet/);
  localStorage.setItem("vinyl.last crate", JSON.stringify({ id: 9, name: "Harbour" }));
  await user.keyboard("C");
  await waitFor(() =>
    expect(asked.at(-1)).toMatchObject({ what: "POST /api/crates/9/tracks", body: { ids: [3] } }),
  );
  await user.keyboard("{ArrowRight}");
  await screen.findByText("Slack");
  expect(screen.queryByText("Ebb")).toBeNull();
  await user.keyboard("{ArrowLeft}");
  await screen.findByText("Ebb");
  await user.keyboard("{Escape}");
  expect(leave).toHaveBeenCalled();
});
