/** The fields of the editing card: what the tracks have in common, what is to be set, and what is typed to be completed. */
import { Autocomplete, Box, Button, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import type { EditName, Schema } from "../api/client";
import { completionsQuery, trackColoursQuery, type TextName } from "../api/queries";
import { ColoursDialog } from "./colours-dialog";
import { EmojiField } from "./emoji-field";
import { fieldName } from "./format";

export type Edits = Partial<Record<EditName, string | null>>;
type Common = Schema["InCommonOut"];

const TEXTS: readonly TextName[] = [
  ...(["title", "artist", "remixer", "album", "label", "catalogue"] as const),
  ...(["genre", "grouping", "composer", "language", "isrc", "comment"] as const),
];
export const FIELDS: EditName[] = [
  ...TEXTS,
  ...(["year", "key", "stars", "energy", "explicit", "colour", "marks", "never again", "wanted"] as const),
];
const SEVERAL = "several values";

interface Props {
  common: Common;
  edits: Edits;
  onSet: (field: EditName, value: string | null | undefined) => void;
}

export function EditFields({ common, edits, onSet }: Props) {
  const field = (name: EditName) => ({
    name,
    now: common.fields[name]?.value ?? null,
    edit: edits[name],
    onSet: (value: string | null | undefined) => onSet(name, value),
  });
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr", gap: 1.2 }}>
      {TEXTS.map((name, place) => (
        <TextValue key={name} {...field(name)} text={name} first={place === 0} />
      ))}
      <Plain {...field("year")} label="year" />
      <Plain {...field("key")} label="key, as Am, 8A or A minor" />
      <Plain {...field("energy")} label="energy, 0 to 100" />
      <Choice {...field("stars")} label="stars" choices={["0", "1", "2", "3", "4", "5"].map((n) => [n, n])} />
      <Colour {...field("colour")} />
      <EmojiField {...field("marks")} />
      <Choice {...field("explicit")} label="explicit lyrics" choices={YES_NO} />
      <Choice {...field("never again")} label="never again" choices={YES_NO} />
      <Choice {...field("wanted")} label="wanted in a better file" choices={YES_NO} />
    </Box>
  );
}

const YES_NO: [string, string][] = [
  ["yes", "yes"],
  ["no", "no"],
];

export interface ValueProps {
  name: EditName;
  /** What all tracks have; null where they have several. */
  now: string | null;
  /** What is to be set; undefined where it is left alone, null where the hand's word is taken back. */
  edit: string | null | undefined;
  onSet: (value: string | null | undefined) => void;
}

/** What a field shows: an edit, or what there is. */
export const shownValue = ({ now, edit }: ValueProps): string => edit ?? now ?? "";

function labelOf({ name, edit }: ValueProps, label?: string): string {
  const words = label ?? fieldName(name);
  return edit === undefined ? words : edit === null ? `${words}, as found` : `${words}, to be set`;
}

function look(props: ValueProps, label?: string) {
  return {
    ...{ size: "small" as const, fullWidth: true, label: labelOf(props, label) },
    ...{ focused: props.edit !== undefined || undefined, color: "secondary" as const },
    placeholder: props.now === null ? SEVERAL : "",
    slotProps: { inputLabel: { shrink: true } },
  };
}

function TextValue({ text, first, ...props }: ValueProps & { text: TextName; first: boolean }) {
  const value = shownValue(props);
  const [asked, setAsked] = useState(false);
  const begun = useDeferredValue(value);
  const found = useQuery({ ...completionsQuery(text, begun), enabled: asked && text !== "comment" }).data;
  const set = (next: string) =>
    props.onSet(next === (props.now ?? "") && props.now !== null ? undefined : next);
  return (
    <Box sx={{ display: "flex", gap: 0.5, gridColumn: text === "comment" ? "1 / -1" : undefined }}>
      <Autocomplete
        freeSolo
        fullWidth
        disableClearable
        options={found ?? []}
        filterOptions={(options) => options}
        inputValue={value}
        onFocus={() => setAsked(true)}
        onInputChange={(_, next, reason) => reason !== "reset" && set(next)}
        onChange={(_, next) => set(next)}
        renderInput={(given) => {
          const { slotProps: own, ...rest } = look(props);
          return (
            <TextField
              {...given}
              {...rest}
              autoFocus={first}
              slotProps={{
                ...given.slotProps,
                inputLabel: { ...given.slotProps.inputLabel, ...own.inputLabel },
              }}
            />
          );
        }}
      />
      <Back {...props} />
    </Box>
  );
}

/** Takes the hand's word back, or the edit before it is made. */
function Back({ edit, name, onSet }: ValueProps) {
  const told = edit === undefined ? "Back to what the file says" : "Leave it as it is";
  return (
    <Button
      size="small"
      title={told}
      aria-label={`${told}: ${fieldName(name)}`}
      onClick={() => onSet(edit === undefined ? null : undefined)}
      sx={{ minWidth: 30, px: 0 }}
    >
      {edit === undefined ? "↺" : "×"}
    </Button>
  );
}

function Plain(props: ValueProps & { label: string }) {
  const { label, ...value } = props;
  return (
    <Box sx={{ display: "flex", gap: 0.5 }}>
      <TextField
        {...look(value, label)}
        value={shownValue(value)}
        onChange={(event) => value.onSet(event.target.value)}
      />
      <Back {...value} />
    </Box>
  );
}

function Choice(props: ValueProps & { label: string; choices: [string, string][] }) {
  const { label, choices, ...value } = props;
  const shown = flag(value.name, shownValue(value));
  return (
    <Box sx={{ display: "flex", gap: 0.5 }}>
      <TextField
        select
        {...look(value, label)}
        value={choices.some(([each]) => each === shown) ? shown : ""}
        onChange={(event) => value.onSet(event.target.value)}
        slotProps={{
          inputLabel: { shrink: true },
          select: { displayEmpty: true, renderValue: (each) => wordsOf(choices, each as string, value) },
        }}
      >
        {choices.map(([each, words]) => (
          <MenuItem key={each} value={each}>
            {words}
          </MenuItem>
        ))}
      </TextField>
      <Back {...value} />
    </Box>
  );
}

/** Plain facts come as 0 and 1. */
function flag(name: EditName, value: string): string {
  if (!["explicit", "never again", "wanted"].includes(name)) return value;
  return value === "1" || value === "yes" ? "yes" : value === "" ? "" : "no";
}

function wordsOf(choices: [string, string][], value: string, { now, edit }: ValueProps): string {
  if (edit === undefined && now === null) return SEVERAL;
  return choices.find(([each]) => each === value)?.[1] ?? "";
}

function Colour(props: ValueProps) {
  const [naming, setNaming] = useState(false);
  const colours = useQuery(trackColoursQuery).data ?? [];
  const choices: [string, string][] = [
    ["", "none"],
    ...colours.map((each): [string, string] => [each.colour, `${each.sign} ${each.name}`]),
  ];
  return (
    <Box sx={{ display: "flex", gap: 0.5, "& > div": { flex: 1 } }}>
      <Choice {...props} label="colour" choices={choices} />
      <Button size="small" onClick={() => setNaming(true)} sx={{ minWidth: 62, px: 0 }}>
        Names…
      </Button>
      {naming && <ColoursDialog of="tracks" onClose={() => setNaming(false)} />}
    </Box>
  );
}
