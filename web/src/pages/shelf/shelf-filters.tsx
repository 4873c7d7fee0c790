/** The filters of the Shelf that are on, each of which can be taken away. */
import { Chip, MenuItem, Select } from "@mui/material";
import { memo } from "react";
import { useKeyName } from "../../components/key-name";
import { useTagLooks } from "../../components/tags";
import { limitsOf, MOST_PLAYS, ONLY, tagsOf, type Changes, type Filters } from "./use-shelf-query";

interface Told {
  text: string;
  drop: Changes;
}

interface OnlyProps {
  value: string;
  onChange: (changes: Changes) => void;
}

/** All tracks, or those that need to be looked at. */
export const Only = memo(function Only({ value, onChange }: OnlyProps) {
  return (
    <Select
      variant="standard"
      size="small"
      value={value}
      displayEmpty
      SelectDisplayProps={{ "aria-label": "Which tracks" }}
      onChange={(e) => onChange({ only: e.target.value || null })}
      sx={{ fontSize: "0.86rem", ml: 0.5, flex: "none" }}
    >
      <MenuItem value="">all tracks</MenuItem>
      {ONLY.map(({ name, words }) => (
        <MenuItem key={name} value={name}>
          tracks {words}
        </MenuItem>
      ))}
    </Select>
  );
});

interface ChipsProps {
  filters: Filters;
  onChange: (changes: Changes) => void;
}

export const Chips = memo(function Chips({ filters, onChange }: ChipsProps) {
  return useTold(filters).map(({ text, drop }) => (
    <Chip
      key={text}
      label={text}
      color="secondary"
      size="small"
      onDelete={() => onChange(drop)}
      slotProps={{ root: { "aria-label": `${text}: take it away` } }}
      sx={{ borderRadius: "3px", fontWeight: 600 }}
    />
  ));
});

function useTold(filters: Filters): Told[] {
  const written = useKeyName();
  const looks = useTagLooks();
  const { bpm_from: low, bpm_to: high, key, genre, month, colour, folder } = filters;
  const told: Told[] = figuresTold(filters);
  if (low !== undefined || high !== undefined)
    told.push({ text: `tempo ${low ?? ""} to ${high ?? ""}`, drop: { bpm_from: null, bpm_to: null } });
  if (key) told.push({ text: `key fits ${written(key)}`, drop: { key: null } });
  if (genre) told.push({ text: genre, drop: { genre: null } });
  if (colour) told.push({ text: `colour ${colour}`, drop: { colour: null } });
  if (folder) told.push({ text: `in ${folder.split("/").pop() || folder}`, drop: { folder: null } });
  if (month) told.push({ text: `added ${month}`, drop: { month: null } });
  for (const id of tagsOf(filters)) {
    const rest = tagsOf(filters).filter((each) => each !== id);
    told.push({ text: looks.get(id)?.tag.name ?? "a tag that is gone", drop: { tags: rest.join(",") } });
  }
  for (const { words } of limitsOf(filters)) {
    const rest = limitsOf(filters).filter((each) => each.words !== words);
    told.push({ text: words, drop: { limits: JSON.stringify(rest) } });
  }
  return told;
}

function figuresTold({ rating_from: stars, energy, year, plays_from: plays }: Filters): Told[] {
  const told: Told[] = [];
  if (stars) told.push({ text: `${stars} stars or more`, drop: { rating_from: null } });
  if (energy !== undefined) told.push({ text: `energy ${energy} and up`, drop: { energy: null } });
  if (year) told.push({ text: `of ${year}`, drop: { year: null } });
  if (plays !== undefined) {
    const times = plays >= MOST_PLAYS ? `${plays} times or more` : plays ? `${plays} times` : "never";
    told.push({ text: `played ${times}`, drop: { plays_from: null } });
  }
  return told;
}
