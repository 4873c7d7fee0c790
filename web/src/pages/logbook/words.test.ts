/** Nights in words. */
import { afterEach, expect, test, vi } from "vitest";
import type { Gig, Venue } from "./use-logbook";
import { dateOf, dayOf, factsOf, isoOf, weeklyOf, whereOf } from "./words";

afterEach(() => vi.useRealTimers());

const gig = (more: Partial<Gig>) =>
  ({
    ...{ begins: "21:00", ends: "00:10", tracks: 41, went_well: 4, not_here: 0, kind: "" },
    ...{ venue_id: null, name: "" },
    ...more,
  }) as Gig;

test("a day bears its year only if it is another than this", () => {
  vi.useFakeTimers({ now: new Date(2026, 10, 27) });
  expect(dayOf("2026-11-20")).toBe("Fri 20 Nov");
  expect(dayOf("2024-02-29")).toBe("Thu 29 Feb 2024");
});

test("a date stays the same from text to text, on every day of a year", () => {
  for (let day = 0; day < 366; day++) {
    const on = new Date(Date.UTC(2024, 0, 1 + day)).toISOString().slice(0, 10);
    expect(isoOf(dateOf(on))).toBe(on);
  }
});

test("a night tells what is known of it", () => {
  expect(factsOf(gig({}))).toBe("21:00 to 00:10 · 41 played · 4 went well");
  expect(factsOf(gig({ ends: null, went_well: 0, not_here: 2 }))).toBe(
    "from 21:00 · 41 played · 2 not on the Shelf",
  );
  expect(factsOf(gig({ begins: null, ends: null, kind: "radio" }))).toMatch(/^time not known .* · radio$/);
});

test("where it was is the venue's name, or its own, or not known yet", () => {
  const venues = [{ id: 3, name: "The Slipway" }] as Venue[];
  expect(whereOf(gig({ venue_id: 3, name: "Opening" }), venues)).toBe("The Slipway");
  expect(whereOf(gig({ venue_id: 9, name: "Opening" }), venues)).toBe("Opening");
  expect(whereOf(gig({}), venues)).toBe("No venue yet");
});

test("what comes every week is called by its day", () => {
  expect(weeklyOf({ weekday: 4, begins: "21:00", ends: "23:30" } as Venue["recurring"][number])).toBe(
    "Fridays, 21:00 to 23:30",
  );
  expect(weeklyOf({ weekday: 0, begins: "20:00", ends: null } as Venue["recurring"][number])).toBe(
    "Mondays, 20:00",
  );
});
