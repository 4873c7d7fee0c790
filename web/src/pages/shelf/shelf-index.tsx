/** The collection in pictures, each of them a filter; which stand there is chosen, and all of them fold away. */
import { Box, Button, Checkbox, FormControlLabel, Popover, Typography } from "@mui/material";
import { memo, useState, type ReactNode } from "react";
import type { Family, Schema } from "../../api/client";
import type { PictureName } from "../../api/queries";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { useKeyName } from "../../components/key-name";
import { KEYS } from "../../components/keys";
import { BarPicture } from "./bar-picture";
import { KeyPicture } from "./key-picture";
import { allPictures, type Picture, type Shown } from "./pictures";
import { TempoPicture } from "./tempo-picture";
import { ENERGY_STEP, MOST_PLAYS, tagsOf, type Changes, type Filters } from "./use-shelf-query";
import { WordPicture } from "./word-picture";

interface Props {
  index: Schema["IndexOut"];
  filters: Filters;
  onChange: (changes: Changes) => void;
}

/** How much of the width each picture takes. */
const WIDTHS: Record<PictureName, string> = {
  bpm: "minmax(15rem, 1.5fr)",
  key: "9.4rem",
  energy: "minmax(7.5rem, 0.7fr)",
  rating: "minmax(6.3rem, 0.5fr)",
  genre: "minmax(10.6rem, 1.2fr)",
  month: "minmax(7.5rem, 0.7fr)",
  year: "minmax(7.5rem, 0.8fr)",
  plays: "minmax(7.5rem, 0.6fr)",
  colour: "minmax(6rem, 0.5fr)",
};
const FAMILY_WIDTH = "minmax(10.6rem, 1.2fr)";

export const ShelfIndex = memo(function ShelfIndex(props: Props & { shown: Shown }) {
  const { pictures, families, folded } = props.shown;
  if (folded || !pictures.length) return null;
  const widths = pictures.map((each) => (isFamily(each) ? FAMILY_WIDTH : WIDTHS[each])).join(" ");
  return (
    <Box
      role="group"
      aria-label="The collection in pictures"
      // Sideways there may be more of them than fit.
      data-wide
      sx={(theme) => ({
        display: "grid",
        gridTemplateColumns: widths,
        columnGap: 2.6,
        px: 2,
        pt: 1.2,
        pb: 0.8,
        height: "9.5rem",
        overflowX: "auto",
        overflowY: "hidden",
        bgcolor: theme.inks.panel,
        flex: "none",
      })}
    >
      {pictures.map((picture) => {
        const family = families.find((each) => picture === `tags ${each.id}`);
        if (family) return <FamilyPicture key={picture} family={family} {...props} />;
        return isFamily(picture) ? null : <OnePicture key={picture} name={picture} {...props} />;
      })}
    </Box>
  );
});

function isFamily(picture: Picture): picture is `tags ${number}` {
  return picture.startsWith("tags ");
}

/** Chooses the pictures, and folds them away. */
export const PictureChoice = memo(function PictureChoice({ chosen }: { chosen: Shown }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button onClick={chosen.fold} title={chosen.folded ? "Show the pictures" : "Fold the pictures away"}>
        {chosen.folded ? "Pictures ▾" : "Fold ▴"} <KeyHint>{shown(KEYS.lists.pictures)}</KeyHint>
      </Button>
      <Button aria-label="Which pictures" onClick={(event) => setAnchor(event.currentTarget)}>
        …
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
      >
        <Box
          role="group"
          aria-label="Which pictures"
          sx={{ p: 1.5, display: "flex", flexDirection: "column" }}
        >
          {allPictures(chosen.families).map((picture) => (
            <FormControlLabel
              key={picture}
              sx={{ m: 0 }}
              label={chosen.nameOf(picture)}
              control={
                <Checkbox
                  size="small"
                  sx={{ p: 0.4 }}
                  checked={chosen.pictures.includes(picture)}
                  onChange={() => chosen.toggle(picture)}
                />
              }
            />
          ))}
        </Box>
      </Popover>
    </>
  );
});

function OnePicture({ name, ...props }: Props & { name: PictureName }) {
  switch (name) {
    case "bpm":
      return <Tempi {...props} />;
    case "key":
      return <Keys {...props} />;
    case "energy":
      return <Energies {...props} />;
    case "genre":
      return <Genres {...props} />;
    default:
      return <Bars name={name} {...props} />;
  }
}

function Tempi({ index, filters: { bpm_from: low, bpm_to: high }, onChange }: Props) {
  return (
    <Framed title="Tempo" chosen={low !== undefined ? `${low}–${high}` : ""}>
      <TempoPicture
        counts={index.bpm}
        from={low ?? null}
        to={high ?? null}
        onChange={(from, to) => onChange({ bpm_from: from, bpm_to: to })}
      />
    </Framed>
  );
}

function Keys({ index, filters: { key }, onChange }: Props) {
  const written = useKeyName();
  return (
    <Framed title="Key" chosen={key ? `fits ${written(key)}` : ""}>
      <KeyPicture counts={index.key} chosen={key ?? null} onChange={(next) => onChange({ key: next })} />
    </Framed>
  );
}

/** Energy in tens. */
function Energies({ index, filters: { energy }, onChange }: Props) {
  const bars = Array.from({ length: 100 / ENERGY_STEP }, (_, n) => ({
    value: String(ENERGY_STEP * n),
    label: n % 2 ? "" : String(ENERGY_STEP * n),
    count: index.energy[String(ENERGY_STEP * n)] ?? 0,
  }));
  return (
    <Framed title="Energy" chosen={energy === undefined ? "" : `${energy}–${energy + ENERGY_STEP - 1}`}>
      <BarPicture
        bars={bars}
        chosen={energy === undefined ? null : String(energy)}
        onChoose={(n) => onChange({ energy: Number(n) === energy ? null : Number(n) })}
        what="and up, energy"
      />
    </Framed>
  );
}

function Genres({ index, filters: { genre }, onChange }: Props) {
  const words = Object.entries(index.genre).sort((a, b) => b[1] - a[1]);
  return (
    <Framed title="Style, as the files say" chosen="">
      <WordPicture
        words={words.map(([name, count]) => ({ name, count, on: name === genre, value: name }))}
        onChoose={(name) => onChange({ genre: name === genre ? null : name })}
      />
    </Framed>
  );
}

/** The tags of a family that tracks have; each that is chosen narrows what is found. */
function FamilyPicture({ family, index, filters, onChange }: Props & { family: Family }) {
  const wanted = tagsOf(filters);
  const toggle = (id: string) => {
    const others = wanted.filter((each) => each !== Number(id));
    onChange({ tags: (others.length < wanted.length ? others : [...wanted, Number(id)]).join(",") });
  };
  const words = family.tags
    .map((tag) => ({
      ...{ name: tag.name, value: String(tag.id), count: index.tags[String(tag.id)] ?? 0 },
      on: wanted.includes(tag.id),
    }))
    .filter(({ count, on }) => count > 0 || on);
  return (
    <Framed title={family.name} chosen="">
      <WordPicture words={words} onChoose={toggle} />
    </Framed>
  );
}

type BarName = Exclude<PictureName, "bpm" | "key" | "energy" | "genre">;

/** What the bars of a picture are, by the filter that they set. */
const FILTER = {
  rating: "rating_from",
  month: "month",
  year: "year",
  plays: "plays_from",
  colour: "colour",
} as const;
const WHAT: Record<BarName, string> = {
  rating: "stars or more",
  month: "",
  year: "",
  plays: "plays",
  colour: "",
};
const NAMES: Record<BarName, string> = {
  rating: "Stars",
  month: "Added",
  year: "Year",
  plays: "Plays",
  colour: "Colour",
};

function Bars({ name, index, filters, onChange }: Props & { name: BarName }) {
  const filter = FILTER[name];
  const now = filters[filter];
  return (
    <Framed title={NAMES[name]} chosen={now === undefined ? "" : String(now)}>
      <BarPicture
        bars={barsOf(name, index)}
        chosen={now === undefined ? null : String(now)}
        onChoose={(value) => onChange({ [filter]: value === String(now) ? null : value })}
        what={WHAT[name]}
      />
    </Framed>
  );
}

function barsOf(name: BarName, index: Schema["IndexOut"]) {
  if (name === "month") return lastMonths(index.month);
  if (name === "year") return years(index.year);
  const counts: Record<string, number> = index[name];
  const values = {
    rating: ["1", "2", "3", "4", "5"],
    plays: Array.from({ length: MOST_PLAYS + 1 }, (_, n) => String(n)),
    colour: Object.keys(counts),
  }[name];
  const label = (value: string, place: number) =>
    name === "rating" ? `${value}★` : name === "plays" && place % 5 ? "" : value;
  return values.map((value, place) => ({ value, label: label(value, place), count: counts[value] ?? 0 }));
}

function years(counts: Record<string, number>) {
  const known = Object.keys(counts).map(Number);
  if (!known.length) return [];
  const [first, last] = [Math.max(Math.min(...known), Math.max(...known) - 49), Math.max(...known)];
  return Array.from({ length: last - first + 1 }, (_, n) => ({
    value: String(first + n),
    label: (first + n) % 10 ? "" : String(first + n),
    count: counts[String(first + n)] ?? 0,
  }));
}

function Framed({ title, chosen, children }: { title: string; chosen: string; children: ReactNode }) {
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
