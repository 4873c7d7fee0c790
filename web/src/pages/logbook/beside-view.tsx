/** Two nights side by side, with what they share: lines lead from a track of one to the same of the other. */
import { Box, Button, Typography } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import type { Schema } from "../../api/client";
import { besideQuery } from "../../api/queries";
import { useSettings } from "../../settings";
import { TYPE_PX } from "../../theme";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { ROW_PX, PlayRow } from "./play-row";
import type { NightData } from "./night-view";
import type { Logbook } from "./use-logbook";
import { dayOf, factsOf, whereOf } from "./words";

type Beside = Schema["BesideOut"];
export const GAP_PX = 110;

interface Props {
  logbook: Logbook;
  first: number;
  second: number;
}

export function BesideView({ logbook, first, second }: Props) {
  const { data, error } = useQuery(besideQuery(first, second));
  useKeys(KEYS.lists.none, () => logbook.go({ beside: null }));
  if (error) return <Box sx={{ p: 3, color: "error.main" }}>{error.message}</Box>;
  if (!data) return null;
  const { shared } = data;
  return (
    <Box sx={{ flex: 1, minHeight: 0, overflow: "auto", px: 2.5, pt: 1.2, pb: 2 }}>
      <Box sx={{ display: "grid", gridTemplateColumns: `1fr ${GAP_PX}px 1fr 17rem`, alignItems: "start" }}>
        <Side logbook={logbook} night={data.first} strong={shared.map((each) => each.first)} />
        <Ribbons shared={shared} most={Math.max(data.first.plays.length, data.second.plays.length)} />
        <Side logbook={logbook} night={data.second} strong={shared.map((each) => each.second)} />
        <WhatTheyShare logbook={logbook} data={data} />
      </Box>
    </Box>
  );
}

export const HEAD_REM = 3.4;

function Side({ logbook, night, strong }: { logbook: Logbook; night: NightData; strong: number[] }) {
  const { gig, plays } = night;
  return (
    <Box sx={{ minWidth: 0 }} data-testid="beside">
      <Box sx={{ height: `${HEAD_REM}rem`, borderBottom: 1, borderColor: "divider" }}>
        <Typography variant="h2">
          {dayOf(gig.on)}
          {logbook.venue?.id !== gig.venue_id && `, ${whereOf(gig, logbook.venues)}`}
        </Typography>
        <Box sx={{ color: "text.secondary", fontSize: "0.82rem" }}>{factsOf(gig)}</Box>
      </Box>
      <Box role="list" aria-label={`What was played on ${dayOf(gig.on)}`}>
        {plays.map((play, place) => (
          <PlayRow key={play.id} play={play} strong={strong.includes(place)} narrow />
        ))}
      </Box>
    </Box>
  );
}

interface RibbonsProps {
  shared: Beside["shared"];
  /** How many rows the longer side has. */
  most: number;
}

/** Lines from each track at the left to the same at the right. */
export function Ribbons({ shared, most }: RibbonsProps) {
  const { inks } = useTheme();
  const rem = TYPE_PX[useSettings().size];
  const row = (ROW_PX / 16) * rem;
  const at = (place: number) => (place + 0.5) * row;
  return (
    <svg width={GAP_PX} height={most * row} style={{ marginTop: `${HEAD_REM}rem` }} aria-hidden>
      {shared.map(({ first, second, in_a_row }) => (
        <path
          key={first}
          d={`M0,${at(first)} C${GAP_PX / 2},${at(first)} ${GAP_PX / 2},${at(second)} ${GAP_PX},${at(second)}`}
          fill="none"
          stroke={in_a_row ? inks.now : inks.doubt}
          strokeWidth={in_a_row ? 3 : 1.5}
        />
      ))}
    </svg>
  );
}

function WhatTheyShare({ logbook, data }: { logbook: Logbook; data: Beside }) {
  const { first, second, shared } = data;
  const pairs = shared.filter(
    (each, i) =>
      each.in_a_row && shared[i + 1]?.first === each.first + 1 && shared[i + 1]?.second === each.second + 1,
  );
  const titles = (places: number[]) => places.map((place) => first.plays[place]?.title ?? "");
  const both = (went: string) =>
    titles(
      shared
        .filter((each) => first.plays[each.first]?.went === went && second.plays[each.second]?.went === went)
        .map((each) => each.first),
    );
  const flat = [...first.plays, ...second.plays].filter((play) => play.went === "flat");
  const never = [...first.plays, ...second.plays].filter((play) => play.never !== "");
  const share = second.plays.length ? Math.round((100 * shared.length) / second.plays.length) : 0;
  return (
    <Box sx={{ pl: 3 }} data-testid="shared">
      <Box sx={{ height: `${HEAD_REM}rem`, borderBottom: 1, borderColor: "divider" }}>
        <Typography variant="h2">What they share</Typography>
        <Box sx={{ color: "text.secondary", fontSize: "0.82rem" }}>
          {shared.length} {shared.length === 1 ? "track" : "tracks"}, {share} % of the second
        </Box>
      </Box>
      <Group
        title="Same two in a row, both nights"
        colour="error.main"
        lines={pairs.map(({ first: place }) => titles([place, place + 1]).join(", then "))}
      />
      <Group title="Went well both times" lines={both("well")} />
      <Group
        title="Fell flat"
        lines={flat.map((play) => (play.note ? `${play.title} · ${play.note}` : play.title))}
      />
      <Group title="Never again" colour="error.main" lines={never.map((play) => play.title)} />
      {!shared.length && <Box sx={{ py: 1.5 }}>Not one track was played at both.</Box>}
      <Button sx={{ mt: 1 }} onClick={() => logbook.go({ beside: null })}>
        Show {dayOf(first.gig.on)} alone
      </Button>
    </Box>
  );
}

export function Group({ title, lines, colour }: { title: string; lines: string[]; colour?: string }) {
  if (!lines.length) return null;
  return (
    <Box sx={{ py: 1.1, borderBottom: 1, borderColor: "divider", fontSize: "0.86rem" }}>
      <Box sx={{ fontWeight: 650, color: colour ?? "text.primary" }}>{title}</Box>
      {[...new Set(lines)].map((line) => (
        <div key={line}>{line}</div>
      ))}
    </Box>
  );
}
