// @vitest-environment jsdom
/** Nights as silhouettes: each with its menu, venues with theirs, one beside another by ⇧. */
import { serve } from "../../testing-server";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { App } from "../../testing";
import type { Gig, Logbook, Venue } from "./use-logbook";
import { isoOf } from "./words";
import { YearStrip } from "./year-strip";

afterEach(cleanup);

const daysAgo = (days: number) => isoOf(new Date(Date.now() - days * 86_400_000));
const gig = (id: number, days: number, venue_id: number | null) =>
  ({
    ...{ id, venue_id, on: daysAgo(days), begins: "21:00", ends: "23:00", tracks: 18, shape: [40, 60, 80] },
    ...{ name: "", kind: "", note: "", came_from: "", went_well: 0, fell_flat: 0, off_shelf: 0 },
  }) as unknown as Gig;
const slipway = { id: 7, name: "The Slipway", recurring: [] } as unknown as Venue;

function show(open: Gig | null = null, venue: Venue | null = null) {
  const gigs = [gig(1, 3, 7), gig(2, 10, 7), gig(3, 20, null)];
  const go = vi.fn();
  const logbook = { gigs, there: gigs, venues: [slipway], venue, night: open, beside: null, go };
  const asked = serve({ "POST /api/gigs/thrown-away": {}, "POST /api/gigs/delete": {} });
  render(
    <App>
      <YearStrip logbook={logbook as unknown as Logbook} />
    </App>,
  );
  const night = (id: number) => document.querySelector<HTMLElement>(`[data-night="${id}"]`) as HTMLElement;
  return { asked, go, gigs, night, user: userEvent.setup() };
}

const press = (thing: HTMLElement) => fireEvent.keyDown(thing, { key: "F10", shiftKey: true });
const lines = () => screen.getAllByRole("menuitem").map((each) => each.textContent);

test("a click opens a night, with ⇧ it stands beside the open one", () => {
  const { go, gigs, night } = show(gig(1, 3, 7));
  fireEvent.click(night(2));
  expect(go).toHaveBeenLastCalledWith({ view: "nights", night: 2, beside: null });
  fireEvent.click(night(2), { shiftKey: true });
  expect(go).toHaveBeenLastCalledWith({ view: "nights", night: gigs[0]?.id, beside: 2 });
  expect(night(1).getAttribute("aria-pressed")).toBe("true");
});

test("the menu of a night throws it away as practice, or deletes it", async () => {
  const { asked, night, user } = show();
  press(night(3));
  expect(lines()).toEqual(["Open this night", "Throw away as practice", "Delete this night"]);
  await user.click(screen.getByText("Throw away as practice"));
  await waitFor(() => expect(asked.at(-1)?.body).toEqual({ ids: [3], practice: true }));
  await screen.findByText("1 night thrown away as practice.");
  await waitFor(() => expect(screen.queryByRole("menu")).toBeNull());
  fireEvent.contextMenu(night(3), { clientX: 5, clientY: 5 });
  await user.click(await screen.findByText("Delete this night"));
  await waitFor(() => expect(asked.at(-1)).toEqual({ what: "POST /api/gigs/delete", body: { ids: [3] } }));
});

test("beside another night that is open, its menu says which", () => {
  const { night } = show(gig(1, 3, 7));
  press(night(2));
  expect(lines()?.[1]).toMatch(/^Beside /);
  expect(lines()).toHaveLength(4);
});

test("a venue is shown alone, with what was played there, and changed from its menu", async () => {
  const { go, user } = show();
  const venue = screen.getByRole("button", { name: "The Slipway" });
  press(venue);
  expect(lines()).toEqual(["Show The Slipway alone", "What was played there", "Change this venue…"]);
  await user.click(screen.getByText("What was played there"));
  expect(go).toHaveBeenLastCalledWith({ view: "played", venue: 7 });
  await user.click(venue);
  expect(go).toHaveBeenLastCalledWith({ venue: 7, night: null, beside: null });
  expect(screen.getByRole("button", { name: "No venue yet" }).hasAttribute("disabled")).toBe(true);
});

test("of the venue that is shown alone all are shown again", () => {
  const { go } = show(null, slipway);
  const venue = screen.getByRole("button", { name: "The Slipway" });
  expect(venue.getAttribute("aria-pressed")).toBe("true");
  fireEvent.click(venue);
  expect(go).toHaveBeenLastCalledWith({ venue: null, night: null, beside: null });
});
