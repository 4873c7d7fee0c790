/** The Shelf's search line, and the filters that are on, each of which can be taken away. */
import { Chip, InputBase, MenuItem, Select } from "@mui/material";
import { ONLY, type Changes, type Filters } from "./use-shelf-query";

export function Search({ text, onChange }: { text: string; onChange: (text: string) => void }) {
  const press = (event: React.KeyboardEvent<HTMLInputElement | HTMLTextAreaElement>) => {
    const input = event.target as HTMLInputElement;
    if (event.key === "Escape") {
      input.value = "";
      onChange("");
      input.blur();
    } else if (event.key === "Enter" || event.key === "ArrowDown") {
      event.preventDefault();
      input.blur();
    }
  };
  return (
    <InputBase
      id="shelf-search"
      defaultValue={text}
      placeholder="Find by title, artist, album, style or label"
      onChange={(e) => onChange(e.target.value)}
      onKeyDown={press}
      inputProps={{ "aria-label": "Find on the Shelf", maxLength: 400 }}
      sx={(theme) => ({
        width: 310,
        bgcolor: "background.paper",
        border: `2px solid ${theme.inks.ink}`,
        borderRadius: "4px",
        px: 1.2,
        fontSize: "0.9rem",
        height: 30,
      })}
    />
  );
}

interface Told {
  text: string;
  drop: Changes;
}

function chipsOf({
  bpm_from: low,
  bpm_to: high,
  key,
  genre,
  month,
  rating_from: stars,
  energy,
}: Filters): Told[] {
  const chips: Told[] = [];
  if (low !== undefined || high !== undefined)
    chips.push({ text: `tempo ${low ?? ""} to ${high ?? ""}`, drop: { bpm_from: null, bpm_to: null } });
  if (key) chips.push({ text: `key fits ${key}`, drop: { key: null } });
  if (genre) chips.push({ text: genre, drop: { genre: null } });
  if (month) chips.push({ text: `added ${month}`, drop: { month: null } });
  if (stars) chips.push({ text: `${stars} stars or more`, drop: { rating_from: null } });
  if (energy !== undefined) chips.push({ text: `energy ${energy} and up`, drop: { energy: null } });
  return chips;
}

/** All tracks, or those that need to be looked at. */
export function Only({ value, onChange }: { value: string; onChange: (changes: Changes) => void }) {
  return (
    <Select
      variant="standard"
      size="small"
      value={value}
      displayEmpty
      SelectDisplayProps={{ "aria-label": "Which tracks" }}
      onChange={(e) => onChange({ only: e.target.value || null })}
      sx={{ fontSize: "0.86rem", ml: 0.5 }}
    >
      <MenuItem value="">all tracks</MenuItem>
      {ONLY.map(({ name, words }) => (
        <MenuItem key={name} value={name}>
          tracks {words}
        </MenuItem>
      ))}
    </Select>
  );
}

export function Chips({ filters, onChange }: { filters: Filters; onChange: (changes: Changes) => void }) {
  return chipsOf(filters).map(({ text, drop }) => (
    <Chip
      key={text}
      label={text}
      color="secondary"
      size="small"
      onDelete={() => onChange(drop)}
      sx={{ borderRadius: "3px", fontWeight: 600 }}
    />
  ));
}
