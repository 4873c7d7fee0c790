/** Which values go into files and in which form, as sentences whose underlined parts can be changed. */
import { Box, Chip, MenuItem, Select, TextField } from "@mui/material";
import { useEffect, useState } from "react";
import type { Schema } from "../api/client";
import { FIGURES } from "../theme";
import { fieldName } from "./format";

export type Form = Omit<Schema["WriteIn"], "ids" | "found">;
type Field = Form["fields"][number];
type Part = NonNullable<Form["results"]>[number];

export const USUAL_FORM: Form = {
  fields: ["key", "tempo", "energy", "stars"],
  notation: "name",
  tempo_digits: 2,
  results: [],
  results_place: "before",
  energy_word: true,
  cues: false,
  pattern: "",
};
const FIELDS: Field[] = [
  ...(["title", "artist", "remixer", "album", "label", "catalogue", "genre", "grouping"] as const),
  ...(["composer", "language", "isrc", "year", "comment", "key", "tempo", "energy", "stars"] as const),
];
const PARTS: Part[] = ["key", "tempo", "energy"];
const NOTATIONS: Record<NonNullable<Form["notation"]>, string> = {
  name: "A minor, Eb major",
  short: "Am, Eb",
  sharps: "Am, D#",
  wheel: "1m, 10d",
  "wheel letters": "8A, 5B",
};
const PLACES: Record<NonNullable<Form["results_place"]>, string> = {
  before: "before what stands there",
  after: "after what stands there",
  replace: "in place of what stands there",
};
const DIGITS = { 0: "as whole numbers", 1: "with one decimal", 2: "with two decimals" };

interface Props {
  form: Form;
  onChange: (form: Form) => void;
}

export function WriteForm({ form, onChange }: Props) {
  const set = (part: Partial<Form>) => onChange({ ...form, ...part });
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 1.4 }}>
      <Line words="Write into the tags:">
        <Choices
          all={FIELDS}
          chosen={form.fields}
          name={fieldName}
          onChange={(fields) => set({ fields })}
          label="Tags"
        />
      </Line>
      <Line words="Keys like">
        <Choice
          label="Keys"
          value={form.notation ?? "name"}
          of={NOTATIONS}
          onChange={(notation) => set({ notation })}
        />
        and tempi
        <Choice
          label="Tempi"
          value={form.tempo_digits ?? 2}
          of={DIGITS}
          onChange={(tempo_digits) => set({ tempo_digits: Number(tempo_digits) })}
        />
      </Line>
      <IntoComment form={form} set={set} />
      <Line words="Cues">
        <Choice
          label="Cues"
          value={form.cues ? "yes" : "no"}
          of={{ no: "are not written", yes: "become chapter marks" }}
          onChange={(how) => set({ cues: how === "yes" })}
        />
        and the file is called
        <Pattern value={form.pattern ?? ""} onChange={(pattern) => set({ pattern })} />
      </Line>
    </Box>
  );
}

/** Which results go into the comment, and where in it. */
function IntoComment({ form, set }: { form: Form; set: (part: Partial<Form>) => void }) {
  const { results = [] } = form;
  return (
    <Line words="Into the comment too:">
      <Choices
        all={PARTS}
        chosen={results}
        name={(part) => part}
        onChange={(next) => set({ results: next })}
        label="Into the comment"
      />
      {results.length > 0 && (
        <Choice
          label="Place in the comment"
          value={form.results_place ?? "before"}
          of={PLACES}
          onChange={(results_place) => set({ results_place })}
        />
      )}
      {results.includes("energy") && (
        <Choice
          label="Energy in the comment"
          value={form.energy_word === false ? "number" : "word"}
          of={{ word: "as “Energy 70”", number: "as “E70”" }}
          onChange={(how) => set({ energy_word: how === "word" })}
        />
      )}
    </Line>
  );
}

function Line({ words, children }: { words: string; children: React.ReactNode }) {
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 0.8 }}>
      {words}
      {children}
    </Box>
  );
}

interface ChoicesProps<T extends string> {
  all: readonly T[];
  chosen: readonly T[];
  name: (value: T) => string;
  label: string;
  onChange: (chosen: T[]) => void;
}

/** Words that are ticked or not. */
function Choices<T extends string>({ all, chosen, name, label, onChange }: ChoicesProps<T>) {
  const toggle = (value: T) =>
    onChange(chosen.includes(value) ? chosen.filter((each) => each !== value) : [...chosen, value]);
  return (
    <Box role="group" aria-label={label} sx={{ display: "flex", flexWrap: "wrap", gap: 0.5 }}>
      {all.map((value) => (
        <Chip
          key={value}
          size="small"
          clickable
          component="button"
          type="button"
          aria-pressed={chosen.includes(value)}
          label={`${chosen.includes(value) ? "✓ " : ""}${name(value)}`}
          color={chosen.includes(value) ? "secondary" : "default"}
          variant={chosen.includes(value) ? "filled" : "outlined"}
          onClick={() => toggle(value)}
        />
      ))}
    </Box>
  );
}

interface ChoiceProps<K extends string | number> {
  label: string;
  value: K;
  of: Record<K, string>;
  onChange: (value: K) => void;
}

/** An underlined part of a sentence with a list behind it. */
function Choice<K extends string | number>({ label, value, of, onChange }: ChoiceProps<K>) {
  return (
    <Select
      variant="standard"
      size="small"
      value={value}
      SelectDisplayProps={{ "aria-label": label }}
      onChange={(e) => onChange(e.target.value as K)}
    >
      {(Object.keys(of) as K[]).map((key) => (
        <MenuItem key={key} value={key}>
          {of[key]}
        </MenuItem>
      ))}
    </Select>
  );
}

const WAIT_MS = 500;

/** The pattern for file names; asked for once the typing rests. */
function Pattern({ value, onChange }: { value: string; onChange: (pattern: string) => void }) {
  const [typed, setTyped] = useState(value);
  useEffect(() => {
    if (typed === value) return;
    const timer = setTimeout(() => onChange(typed.trim()), WAIT_MS);
    return () => clearTimeout(timer);
  }, [typed, value, onChange]);
  return (
    <TextField
      variant="standard"
      size="small"
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      placeholder="as it is"
      title="For example {artist} - {title} ({key}). Left empty, files keep their names."
      slotProps={{
        htmlInput: { "aria-label": "Name of the file", style: { fontFamily: FIGURES, fontSize: "0.82rem" } },
      }}
      sx={{ minWidth: 260 }}
    />
  );
}
