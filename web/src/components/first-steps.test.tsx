// @vitest-environment jsdom
/** The first steps say what is done and lead to what is next, and go once a stick was packed. */
import { serve } from "../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { MemoryRouter } from "react-router";
import { App } from "../testing";
import { FirstSteps } from "./first-steps";

afterEach(cleanup);

function show(library: number, crates: object[], sticks: object[]) {
  const asked = serve({
    "POST /api/tracks/find": { rows: [], total: 0, library },
    "GET /api/crates": crates,
    "GET /api/sticks": sticks,
  });
  render(
    <App>
      <MemoryRouter>
        <FirstSteps />
      </MemoryRouter>
    </App>,
  );
  return asked;
}

const ticks = () => screen.queryAllByLabelText("done").length;
const way = (words: RegExp) => screen.getByRole("link", { name: words }).getAttribute("href");

test("an empty home begins with a folder, and each step that is done is ticked", async () => {
  show(0, [], []);
  await screen.findByLabelText("First steps");
  expect([ticks(), way(/folder of music/), way(/into a crate/)]).toEqual([0, "/arrivals", "/crates"]);
  cleanup();
  show(30, [{ id: 1, tracks: 0, fills_itself: false }], [{ id: 1, packed_at: null }]);
  await screen.findByLabelText("First steps");
  expect([ticks(), way(/into a crate/)]).toEqual([2, "/shelf"]);
});

test("once a stick was packed nothing is said of it any more", async () => {
  const asked = show(30, [{ id: 1, tracks: 3, fills_itself: false }], [{ id: 1, packed_at: "2026-11-01" }]);
  await waitFor(() => expect(asked.length).toBe(3));
  expect(screen.queryByLabelText("First steps")).toBeNull();
});
