/** Nights in words. */
import { counted } from "../../api/changes";
import type { Gig, Venue } from "./use-logbook";

const SHORT = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short" });
const LONG = new Intl.DateTimeFormat("en-GB", {
  weekday: "short",
  day: "numeric",
  month: "short",
  year: "numeric",
});
export const MONTH = new Intl.DateTimeFormat("en-GB", { month: "long", year: "numeric" });
export const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/** "2026-11-20" as a date at noon, so that no time zone moves it. */
export const dateOf = (on: string): Date => new Date(`${on}T12:00:00`);

/** "Fri 20 Nov", with the year if it is another. */
export function dayOf(on: string): string {
  const date = dateOf(on);
  const format = date.getFullYear() === new Date().getFullYear() ? SHORT : LONG;
  return format.format(date).replace(",", "");
}

export function isoOf(date: Date): string {
  const two = (number: number) => String(number).padStart(2, "0");
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
}

export function whereOf(gig: Gig, venues: readonly Venue[]): string {
  return venues.find((venue) => venue.id === gig.venue_id)?.name ?? (gig.name || "No venue yet");
}

/** "21:00 to 00:10 · 41 played · 4 went well". */
export function factsOf(gig: Gig): string {
  const from = gig.begins && (gig.ends ? `${gig.begins} to ${gig.ends}` : `from ${gig.begins}`);
  return [
    from || "time not known",
    `${gig.tracks} played`,
    gig.went_well > 0 && `${gig.went_well} went well`,
    gig.not_here > 0 && `${gig.not_here} not on the Shelf`,
    gig.kind,
  ]
    .filter(Boolean)
    .join(" · ");
}

/** "Fridays, 21:00 to 23:30". */
export function weeklyOf({ weekday, begins, ends }: Venue["recurring"][number]): string {
  return `${DAYS[weekday]}s, ${begins}${ends ? ` to ${ends}` : ""}`;
}

export const nights = (number: number) => counted(number, "night");
