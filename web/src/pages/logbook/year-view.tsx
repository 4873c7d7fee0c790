/** A year at a glance: pictures that filter. */
import { Box, Button, Typography } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { useNavigate } from "react-router";
import type { Condition } from "../../api/client";
import { figuresQuery } from "../../api/queries";
import { FIGURES } from "../../theme";
import { Keys } from "./keys-picture";
import type { Logbook } from "./use-logbook";

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** The Shelf with a limit. */
function shelfWith(words: string, where: Condition): string {
  return `/shelf?limits=${encodeURIComponent(JSON.stringify([{ words, where }]))}`;
}

export function YearView({ logbook }: { logbook: Logbook }) {
  const [year, setYear] = useState(Number(logbook.gigs[0]?.on.slice(0, 4) ?? new Date().getFullYear()));
  const { data: told } = useQuery(figuresQuery(year));
  if (!told) return null;
  return (
    <Box sx={{ flex: 1, minHeight: 0, overflow: "auto", px: 2.5, py: 1.5 }} data-testid="year">
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 1, mb: 1.5 }}>
        {told.years.map((each) => (
          <Button key={each} variant={each === year ? "contained" : "outlined"} onClick={() => setYear(each)}>
            {each}
          </Button>
        ))}
        <Box sx={{ ml: 1 }}>
          <b>{told.nights}</b> nights, <b>{told.plays.toLocaleString("en")}</b> plays of{" "}
          <b>{told.tracks.toLocaleString("en")}</b> tracks
        </Box>
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fit, minmax(20rem, 1fr))", gap: 3 }}>
        <Pictures logbook={logbook} year={year} />
      </Box>
    </Box>
  );
}

function Pictures({ logbook, year }: { logbook: Logbook; year: number }) {
  const navigate = useNavigate();
  const { data: told } = useQuery(figuresQuery(year));
  if (!told) return null;
  const months = MONTHS.map((name, i) => {
    const month = `${year}-${String(i + 1).padStart(2, "0")}`;
    return { name, count: told.months[month] ?? 0, act: () => logbook.go({ view: "month", month }) };
  });
  const byPlays = Object.entries(told.venues).sort((a, b) => b[1] - a[1]);
  const venues = byPlays.map(([name, count]) => {
    const venue = logbook.venues.find((each) => each.name === name);
    return {
      name: name || "No venue yet",
      count,
      act: () => logbook.go({ view: "played", venue: venue?.id ?? null }),
    };
  });
  const tempi = Object.entries(told.tempi).map(([bpm, count]) => {
    const [low, high] = [Number(bpm), Number(bpm) + 4.99];
    return { name: bpm, count, act: () => void navigate(`/shelf?bpm_from=${low}&bpm_to=${high}`) };
  });
  const most = told.most.map(({ track_id, title, times }) => ({
    name: title,
    count: times,
    act: () => void navigate(`/workbench/${track_id}`),
  }));
  return (
    <>
      <Picture title="Plays by month" says="opens the month">
        <Columns bars={months} />
      </Picture>
      <Picture title="Tempo" says="shows that tempo on the Shelf">
        <Columns bars={tempi} />
      </Picture>
      <Picture title="Where" says="shows what was played there">
        <Lines bars={venues} />
      </Picture>
      <Picture title="Most played" says="opens the Workbench">
        <Lines bars={most} />
      </Picture>
      <Picture title="Keys" says="shows that key on the Shelf">
        <Keys counts={told.keys} what="plays" />
      </Picture>
      <Bought year={year} bought={told.bought} never={told.never_played} />
    </>
  );
}

function Bought({ year, bought, never }: { year: number; bought: number; never: number }) {
  const navigate = useNavigate();
  const when: Condition = { kind: "added", since: String(year), until: String(year) };
  const unplayed: Condition = { kind: "between", field: "plays", low: null, high: 0 };
  const show = shelfWith(`added in ${year}, never played`, { kind: "all", parts: [when, unplayed] });
  return (
    <Picture title="Bought and never played" says="">
      <Box sx={{ mb: 1 }}>
        {bought.toLocaleString("en")} tracks came in {year}; <b>{never.toLocaleString("en")}</b> of them were
        never played.
      </Box>
      <Button disabled={!never} onClick={() => void navigate(show)}>
        Show them on the Shelf
      </Button>
    </Picture>
  );
}

interface Bar {
  name: string;
  count: number;
  act: () => void;
}

function Picture({ title, says, children }: { title: string; says: string; children: ReactNode }) {
  return (
    <Box component="section" aria-label={title} sx={{ borderTop: 2, pt: 0.8, minWidth: 0 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        {title}{" "}
        {says && (
          <Box component="span" sx={{ fontSize: "0.75rem", fontWeight: 400, color: "text.secondary" }}>
            a click {says}
          </Box>
        )}
      </Typography>
      {children}
    </Box>
  );
}

const PLAIN = { border: 0, background: "none", font: "inherit", color: "inherit", p: 0, cursor: "pointer" };

function Columns({ bars }: { bars: Bar[] }) {
  const { inks } = useTheme();
  const most = Math.max(1, ...bars.map(({ count }) => count));
  return (
    <Box sx={{ display: "flex", alignItems: "flex-end", gap: "3px", height: "7.5rem" }}>
      {bars.map(({ name, count, act }) => (
        <Box
          key={name}
          component="button"
          type="button"
          title={`${name}: ${count}`}
          onClick={act}
          sx={{
            ...PLAIN,
            flex: 1,
            minWidth: 0,
            height: "100%",
            display: "flex",
            flexDirection: "column",
            justifyContent: "flex-end",
          }}
        >
          <div style={{ height: `${(78 * count) / most}%`, background: inks.body }} />
          <Box sx={{ fontSize: "0.68rem", overflow: "hidden" }}>{name}</Box>
        </Box>
      ))}
    </Box>
  );
}

function Lines({ bars }: { bars: Bar[] }) {
  const { inks } = useTheme();
  const most = Math.max(1, ...bars.map(({ count }) => count));
  return (
    <>
      {bars.map(({ name, count, act }) => (
        <Box
          key={name}
          component="button"
          type="button"
          onClick={act}
          sx={{
            ...PLAIN,
            display: "grid",
            gridTemplateColumns: "11rem 1fr 2.5rem",
            gap: 1,
            width: "100%",
            alignItems: "center",
            textAlign: "left",
            py: 0.25,
            fontSize: "0.85rem",
          }}
        >
          <Box sx={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}>{name}</Box>
          <span style={{ height: 9, width: `${(100 * count) / most}%`, background: inks.body }} />
          <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", textAlign: "right" }}>{count}</Box>
        </Box>
      ))}
    </>
  );
}
