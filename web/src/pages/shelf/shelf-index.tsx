/** The collection in pictures, each of them a filter. */
import { Box, Typography } from "@mui/material";
import type { Schema } from "../../api/client";
import { BarPicture } from "./bar-picture";
import { KeyPicture } from "./key-picture";
import { TempoPicture } from "./tempo-picture";
import { ENERGY_STEP, type Changes, type Filters } from "./use-shelf-query";

interface Props {
  index: Schema["IndexOut"];
  filters: Filters;
  onChange: (changes: Changes) => void;
}

const WIDTHS =
  "minmax(240px, 1.5fr) 150px minmax(120px, 0.7fr) minmax(100px, 0.5fr) minmax(170px, 1.2fr) minmax(120px, 0.7fr)";

export function ShelfIndex({ index, filters, onChange }: Props) {
  const { bpm_from: low, bpm_to: high, key, genre, month } = filters;
  const toggle = (name: "month" | "genre", value: string) =>
    onChange({ [name]: filters[name] === value ? null : value });
  return (
    <Box
      sx={(theme) => ({
        display: "grid",
        gridTemplateColumns: WIDTHS,
        columnGap: 2.6,
        px: 2,
        pt: 1.2,
        pb: 0.8,
        height: 152,
        bgcolor: theme.inks.panel,
        flex: "none",
      })}
    >
      <Picture title="Tempo" chosen={low !== undefined ? `${low}–${high}` : ""}>
        <TempoPicture
          counts={index.bpm}
          from={low ?? null}
          to={high ?? null}
          onChange={(from, to) => onChange({ bpm_from: from, bpm_to: to })}
        />
      </Picture>
      <Picture title="Key" chosen={key ? `fits ${key}` : ""}>
        <KeyPicture counts={index.key} chosen={key ?? null} onChange={(next) => onChange({ key: next })} />
      </Picture>
      <Figures index={index} filters={filters} onChange={onChange} />
      <Picture title="Style, as the files say" chosen="">
        <Styles counts={index.genre} chosen={genre ?? null} onChoose={(name) => toggle("genre", name)} />
      </Picture>
      <Picture title="Added" chosen={month ?? ""}>
        <BarPicture
          bars={lastMonths(index.month)}
          chosen={month ?? null}
          onChoose={(name) => toggle("month", name)}
          what=""
        />
      </Picture>
    </Box>
  );
}

/** Energy in tens, and stars. */
function Figures({ index, filters, onChange }: Props) {
  const { energy, rating_from: from } = filters;
  const energies = Array.from({ length: 100 / ENERGY_STEP }, (_, n) => ({
    value: String(ENERGY_STEP * n),
    label: n % 2 ? "" : String(ENERGY_STEP * n),
    count: index.energy[String(ENERGY_STEP * n)] ?? 0,
  }));
  const stars = [1, 2, 3, 4, 5].map((n) => ({
    value: String(n),
    label: `${n}★`,
    count: index.rating[String(n)] ?? 0,
  }));
  return (
    <>
      <Picture title="Energy" chosen={energy === undefined ? "" : `${energy}–${energy + ENERGY_STEP - 1}`}>
        <BarPicture
          bars={energies}
          chosen={energy === undefined ? null : String(energy)}
          onChoose={(n) => onChange({ energy: Number(n) === energy ? null : Number(n) })}
          what="and up, energy"
        />
      </Picture>
      <Picture title="Stars" chosen={from ? `${from} or more` : ""}>
        <BarPicture
          bars={stars}
          chosen={from ? String(from) : null}
          onChoose={(n) => onChange({ rating_from: Number(n) === from ? null : Number(n) })}
          what="stars or more"
        />
      </Picture>
    </>
  );
}

function Picture({ title, chosen, children }: { title: string; chosen: string; children: React.ReactNode }) {
  return (
    <Box sx={{ minWidth: 0, display: "flex", flexDirection: "column", minHeight: 0 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", gap: 1, flex: "none" }}>
        <Typography variant="overline" noWrap>
          {title}
        </Typography>
        <Typography variant="overline" noWrap sx={{ color: "secondary.main" }}>
          {chosen}
        </Typography>
      </Box>
      <Box sx={{ flex: 1, minHeight: 0 }}>{children}</Box>
    </Box>
  );
}

function Styles({
  counts,
  chosen,
  onChoose,
}: {
  counts: Record<string, number>;
  chosen: string | null;
  onChoose: (genre: string) => void;
}) {
  const sorted = Object.entries(counts).sort((a, b) => b[1] - a[1]);
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.6, maxHeight: "100%", overflow: "auto", pt: 0.3 }}>
      {sorted.map(([genre, count]) => {
        const on = genre === chosen;
        return (
          <Box
            key={genre}
            component="button"
            type="button"
            aria-pressed={on}
            onClick={() => onChoose(genre)}
            sx={(theme) => ({
              font: "inherit",
              fontSize: "0.78rem",
              px: 0.8,
              py: 0.15,
              borderRadius: "3px",
              cursor: "pointer",
              border: `1px solid ${on ? theme.inks.chosen : theme.inks.rule}`,
              bgcolor: on ? theme.inks.chosen : "background.paper",
              color: on ? theme.inks.onStrong : theme.inks.ink,
            })}
          >
            {genre}{" "}
            <Box component="span" sx={{ opacity: 0.7 }}>
              {count.toLocaleString("en")}
            </Box>
          </Box>
        );
      })}
    </Box>
  );
}

function lastMonths(counts: Record<string, number>) {
  const names = Object.keys(counts).sort();
  const last = names.at(-1);
  if (!last) return [];
  let [year = 0, month = 1] = last.split("-").map(Number);
  const bars: { value: string; label: string; count: number }[] = [];
  for (let i = 0; i < 24; i++) {
    const value = `${year}-${String(month).padStart(2, "0")}`;
    bars.unshift({ value, label: month === 1 || i === 0 ? value : "", count: counts[value] ?? 0 });
    month -= 1;
    if (month === 0) [year, month] = [year - 1, 12];
  }
  return bars;
}
