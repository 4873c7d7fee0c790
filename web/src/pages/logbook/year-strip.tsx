/** A year of nights, a line for each venue: each night stands at its date as the silhouette of its energy. */
import { Box, Button } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useState } from "react";
import { dateOf, dayOf, factsOf, isoOf } from "./words";
import { useItemMenu } from "../../components/item-menu";
import { useNightMenu } from "./night-menu";
import type { Gig, Logbook } from "./use-logbook";
import { VenueDialog } from "./venue-dialog";

const DAY_MS = 86_400_000;
const SPAN_DAYS = 365;
const [NIGHT_PX, NIGHT_HEIGHT] = [19, 22];
const MONTH = new Intl.DateTimeFormat("en-GB", { month: "short" });
const MOST_LINES = 5;
/** How far nights stand apart at least, as a share of the year. */
const LEAST_APART = 0.004;
/** How tall a bar is where no energy is known. */
const UNKNOWN = 35;

export function YearStrip({ logbook }: { logbook: Logbook }) {
  const [back, setBack] = useState(0);
  const [now] = useState(() => Date.now());
  const until = now - back * SPAN_DAYS * DAY_MS + 4 * DAY_MS;
  const since = until - SPAN_DAYS * DAY_MS;
  const share = (on: string) => (dateOf(on).getTime() - since) / (until - since);
  const shown = logbook.gigs.filter(({ on }) => share(on) >= 0 && share(on) <= 1);
  const lines = linesOf(logbook, shown);
  const older = logbook.gigs.some(({ on }) => share(on) < 0);
  return (
    <Box
      component="section"
      aria-label="A year of nights"
      sx={{ px: 2.5, pt: 0.5, borderBottom: 2, flex: "none" }}
    >
      {lines.map((line) => (
        <Line key={line.id ?? "none"} line={line} logbook={logbook} share={share} />
      ))}
      <Box sx={{ display: "flex", alignItems: "center", height: "1.75rem", color: "text.secondary" }}>
        <Box sx={{ width: 150, flex: "none", display: "flex", gap: 0.5 }}>
          <Button size="small" disabled={!older} onClick={() => setBack(back + 1)} sx={{ py: 0 }}>
            A year back
          </Button>
          {back > 0 && (
            <Button size="small" onClick={() => setBack(0)} sx={{ py: 0 }}>
              Now
            </Button>
          )}
        </Box>
        <Months since={since} share={share} />
      </Box>
    </Box>
  );
}

interface StripLine {
  id: number | null;
  name: string;
  gigs: Gig[];
}

/** The venues with nights in sight, the most played first, and a line for what has none. */
function linesOf({ venues, venue }: Logbook, shown: readonly Gig[]): StripLine[] {
  const of = (id: number | null) => shown.filter((gig) => gig.venue_id === id);
  const lines = venues.map(({ id, name }) => ({ id, name, gigs: of(id) })).filter(({ gigs }) => gigs.length);
  lines.sort(
    (a, b) => Number(b.id === venue?.id) - Number(a.id === venue?.id) || b.gigs.length - a.gigs.length,
  );
  const nameless = { id: null, name: "No venue yet", gigs: of(null) };
  return [...lines.slice(0, MOST_LINES), ...(nameless.gigs.length ? [nameless] : [])];
}

interface LineProps {
  line: StripLine;
  logbook: Logbook;
  share: (on: string) => number;
}

function Line({ line, logbook, share }: LineProps) {
  return (
    <Box sx={{ display: "flex", alignItems: "flex-end", height: 30 }}>
      <VenueButton line={line} logbook={logbook} />
      <Box sx={{ position: "relative", flex: 1, height: "100%", mr: `${NIGHT_PX}px` }}>
        {placed(line.gigs, share).map(({ gig, left, room }) => (
          <Night key={gig.id} gig={gig} logbook={logbook} left={left} room={room} />
        ))}
      </Box>
    </Box>
  );
}

/** The venue of a line: shows it alone, and has a menu of what can be done with it. */
function VenueButton({ line, logbook }: { line: StripLine; logbook: Logbook }) {
  const [changing, setChanging] = useState(false);
  const venue = logbook.venues.find(({ id }) => id === line.id);
  const open = venue !== undefined && logbook.venue?.id === venue.id;
  const words = open ? "Show all venues" : `Show ${line.name} alone`;
  const show = () => logbook.go({ venue: open ? null : line.id, night: null, beside: null });
  const menu = useItemMenu(`With ${line.name}`, () => [
    { words, act: show },
    { words: "What was played there", act: () => logbook.go({ view: "played", venue: line.id }) },
    { words: "Change this venue…", act: () => setChanging(true), apart: true },
  ]);
  return (
    <>
      <Box
        component="button"
        type="button"
        disabled={!venue}
        aria-pressed={open}
        title={words}
        onClick={show}
        {...menu.handlers}
        sx={{
          ...{ width: 150, flex: "none", textAlign: "left", border: 0, p: 0, pb: 0.2, background: "none" },
          ...{ font: "inherit", fontSize: "0.82rem", fontWeight: open ? 700 : 400, color: "inherit" },
          ...{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" },
          cursor: line.id === null ? "default" : "pointer",
        }}
      >
        {line.name}
      </Box>
      {menu.menu}
      {venue && changing && (
        <VenueDialog venue={venue} logbook={logbook} onClose={() => setChanging(false)} />
      )}
    </>
  );
}

/** Nights from the first on, each with the room up to the next; those of one day stand a little apart. */
function placed(gigs: readonly Gig[], share: (on: string) => number) {
  let last = -1;
  const lefts = [...gigs].reverse().map((gig) => {
    last = Math.max(share(gig.on), last + LEAST_APART);
    return { gig, left: last };
  });
  return lefts.map(({ gig, left }, i) => ({ gig, left, room: (lefts[i + 1]?.left ?? 2) - left }));
}

interface NightProps {
  gig: Gig;
  logbook: Logbook;
  left: number;
  room: number;
}

function Night({ gig, logbook, left, room }: NightProps) {
  const { inks } = useTheme();
  const chosen = gig.id === logbook.night?.id || gig.id === logbook.beside?.id;
  const dim = logbook.venue !== null && gig.venue_id !== logbook.venue.id;
  const open = (event: React.MouseEvent) =>
    event.shiftKey || event.ctrlKey
      ? logbook.go({ view: "nights", night: logbook.night?.id ?? gig.id, beside: gig.id })
      : logbook.go({ view: "nights", night: gig.id, beside: null });
  const menu = useNightMenu(gig, logbook);
  return (
    <>
      <Box
        component="button"
        type="button"
        {...menu.handlers}
        title={`${dayOf(gig.on)}: ${factsOf(gig)}. With ⇧ beside the open one.`}
        aria-label={`${dayOf(gig.on)}, ${factsOf(gig)}`}
        aria-pressed={chosen}
        data-night={gig.id}
        onClick={open}
        sx={{
          ...{ position: "absolute", bottom: 2, left: `${100 * left}%`, border: 0, p: 0, cursor: "pointer" },
          ...{ background: "none", lineHeight: 0, opacity: dim && !chosen ? 0.55 : 1 },
          width: `min(${NIGHT_PX}px, ${100 * room}%)`,
        }}
      >
        <Silhouette shape={gig.shape} fill={chosen ? inks.chosen : inks.body} />
      </Box>
      {menu.menu}
    </>
  );
}

function Silhouette({ shape, fill }: { shape: readonly number[]; fill: string }) {
  const bars = shape.length ? shape : [UNKNOWN];
  return (
    <svg
      width="100%"
      height={NIGHT_HEIGHT}
      viewBox={`0 0 ${NIGHT_PX} ${NIGHT_HEIGHT}`}
      preserveAspectRatio="none"
      aria-hidden
    >
      {bars.map((energy, i) => {
        const height = ((energy || UNKNOWN) / 100) * NIGHT_HEIGHT;
        return <rect key={i} x={i * 2.1} y={NIGHT_HEIGHT - height} width={1.6} height={height} fill={fill} />;
      })}
    </svg>
  );
}

function Months({ since, share }: { since: number; share: (on: string) => number }) {
  const first = new Date(since);
  const months = Array.from(
    { length: 13 },
    (_, i) => new Date(first.getFullYear(), first.getMonth() + i, 1, 12),
  );
  return (
    <Box sx={{ position: "relative", flex: 1, height: 16, mr: `${NIGHT_PX}px`, fontSize: "0.7rem" }}>
      {months
        .map((month) => ({ month, at: share(isoOf(month)) }))
        .filter(({ at }) => at >= 0 && at < 0.98)
        .map(({ month, at }) => (
          <Box component="span" key={month.getTime()} sx={{ position: "absolute", left: `${100 * at}%` }}>
            {MONTH.format(month)}
          </Box>
        ))}
    </Box>
  );
}
