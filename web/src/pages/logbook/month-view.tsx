/** A month as a calendar: the nights that were, and those that come again. */
import { Box, Button, Typography } from "@mui/material";
import { useSearchParams } from "react-router";
import { useNightMenu } from "./night-menu";
import type { Gig, Logbook, Venue } from "./use-logbook";
import { dateOf, DAYS, isoOf, MONTH, whereOf } from "./words";

export function MonthView({ logbook }: { logbook: Logbook }) {
  const asked = useSearchParams()[0].get("month");
  const newest = logbook.night?.on ?? isoOf(new Date());
  const first = dateOf(`${asked ?? newest.slice(0, 7)}-01`);
  const go = (by: number) => {
    const month = new Date(first.getFullYear(), first.getMonth() + by, 1, 12);
    logbook.go({ month: isoOf(month).slice(0, 7) });
  };
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column", px: 2.5, py: 1.5 }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, mb: 1 }}>
        <Typography variant="h2" sx={{ width: "11rem" }}>
          {MONTH.format(first)}
        </Typography>
        <Button onClick={() => go(-1)}>The month before</Button>
        <Button onClick={() => go(1)}>The month after</Button>
      </Box>
      <Box
        sx={{
          flex: 1,
          minHeight: 0,
          overflow: "auto",
          display: "grid",
          gridTemplateColumns: "repeat(7, minmax(0, 1fr))",
          gridAutoRows: "minmax(5.3rem, 1fr)",
        }}
      >
        {daysOf(first).map((day) => (
          <Day key={isoOf(day)} day={day} month={first.getMonth()} logbook={logbook} />
        ))}
      </Box>
    </Box>
  );
}

/** Whole weeks from Monday on that hold the month. */
function daysOf(first: Date): Date[] {
  const before = (first.getDay() + 6) % 7;
  const length = new Date(first.getFullYear(), first.getMonth() + 1, 0).getDate();
  const cells = Math.ceil((before + length) / 7) * 7;
  return Array.from(
    { length: cells },
    (_, i) => new Date(first.getFullYear(), first.getMonth(), 1 - before + i, 12),
  );
}

function Day({ day, month, logbook }: { day: Date; month: number; logbook: Logbook }) {
  const on = isoOf(day);
  const gigs = logbook.there.filter((gig) => gig.on === on);
  const today = on === isoOf(new Date());
  const coming = on >= isoOf(new Date()) && !gigs.length ? comingOn(logbook, day) : [];
  return (
    <Box
      aria-label={`${DAYS[(day.getDay() + 6) % 7]} ${day.getDate()}`}
      sx={(theme) => ({
        ...{ borderTop: 1, borderColor: "divider", p: 0.6, minWidth: 0, overflow: "hidden" },
        opacity: day.getMonth() === month ? 1 : 0.55,
        bgcolor: today ? theme.inks.panel : "transparent",
      })}
    >
      <Box sx={{ fontSize: "0.75rem", color: "text.secondary", fontWeight: today ? 700 : 400 }}>
        {day.getDate()} {(DAYS[(day.getDay() + 6) % 7] ?? "").slice(0, 3)}
      </Box>
      {gigs.map((gig) => (
        <NightButton key={gig.id} gig={gig} logbook={logbook} />
      ))}
      {coming.map(({ venue, begins }) => (
        <Box
          key={`${venue.id} ${begins}`}
          sx={{ fontSize: "0.8rem", color: "text.secondary", fontStyle: "italic" }}
        >
          {begins} {venue.name}
        </Box>
      ))}
    </Box>
  );
}

function comingOn({ venues, venue }: Logbook, day: Date): { venue: Venue; begins: string }[] {
  const weekday = (day.getDay() + 6) % 7;
  return venues
    .filter((each) => !venue || each.id === venue.id)
    .flatMap((each) =>
      each.recurring
        .filter((weekly) => weekly.weekday === weekday)
        .map(({ begins }) => ({ venue: each, begins })),
    );
}

function NightButton({ gig, logbook }: { gig: Gig; logbook: Logbook }) {
  const menu = useNightMenu(gig, logbook);
  return (
    <>
      <Box
        component="button"
        type="button"
        {...menu.handlers}
        onClick={() => logbook.go({ view: "nights", night: gig.id, beside: null })}
        sx={(theme) => ({
          ...{
            display: "block",
            width: "100%",
            textAlign: "left",
            border: 0,
            borderLeft: 3,
            cursor: "pointer",
          },
          ...{ font: "inherit", fontSize: "0.8rem", color: "inherit", mt: 0.4, p: 0.4, borderRadius: "2px" },
          ...{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" },
          borderColor: gig.venue_id === null ? theme.inks.doubt : theme.inks.body,
          bgcolor: theme.inks.panel,
        })}
      >
        {gig.begins} <b>{whereOf(gig, logbook.venues)}</b> {gig.tracks}
      </Box>
      {menu.menu}
    </>
  );
}
