/** What of the Logbook is open: kept in the address, so that going back goes back. */
import { useQuery } from "@tanstack/react-query";
import type { Schema } from "../../api/client";
import { gigsQuery, venuesQuery } from "../../api/queries";
import { useQueryString } from "../../components/use-query-string";

export type Gig = Schema["GigOut"];
export type Venue = Schema["VenueOut"];
export const VIEWS = ["nights", "list", "month", "played", "year", "tidy"] as const;
export type View = (typeof VIEWS)[number];

export interface Logbook {
  gigs: Gig[];
  venues: Venue[];
  venue: Venue | null;
  /** The nights of the venue, or all of them, the newest first. */
  there: Gig[];
  view: View;
  night: Gig | null;
  beside: Gig | null;
  /** The set that stands beside the night. */
  plan: number | null;
  go: (
    to: Partial<Record<"venue" | "view" | "night" | "beside" | "plan" | "month", string | number | null>>,
  ) => void;
}

/** Null until it is known what there is. */
export function useLogbook(): Logbook | null {
  const [params, go] = useQueryString();
  const gigs = useQuery(gigsQuery()).data;
  const venues = useQuery(venuesQuery).data;
  if (!gigs || !venues) return null;
  const venue = venues.find((each) => each.id === Number(params.get("venue"))) ?? null;
  const there = venue ? gigs.filter((gig) => gig.venue_id === venue.id) : gigs;
  const asked = (name: string) => gigs.find((gig) => gig.id === Number(params.get(name)));
  const night = asked("night") ?? there.find((gig) => !gig.looks_like_practice.length) ?? there[0] ?? null;
  const beside = asked("beside") ?? null;
  return {
    ...{ gigs, venues, venue, there, night },
    view: VIEWS.find((view) => view === params.get("view")) ?? "nights",
    beside: beside?.id === night?.id ? null : beside,
    plan: Number(params.get("plan")) || null,
    // Another night has another plan.
    go: (to) => go({ ...(("night" in to || "beside" in to) && { plan: null }), ...to }),
  };
}
