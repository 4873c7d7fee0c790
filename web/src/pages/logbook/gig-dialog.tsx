/** Where and when a night was, what kind it was, and notes on it. */
import { Autocomplete, Box, TextField } from "@mui/material";
import { useState } from "react";
import { FormDialog } from "../../components/form-dialog";
import type { NightActions } from "./night-actions";
import type { Gig, Venue } from "./use-logbook";
import { whereOf } from "./words";

export const KINDS = ["weekly", "club", "wedding", "private", "festival", "radio"];

/** What is said of a night, as it is typed. */
export interface GigFields {
  venue: string;
  on: string;
  begins: string;
  ends: string;
  kind: string;
}

interface FieldsProps {
  fields: GigFields;
  venues: readonly Venue[];
  onChange: (fields: GigFields) => void;
  /** The field that is typed in first. */
  first?: boolean;
  /** Whether the kind of night is asked for. */
  kinds?: boolean;
}

export function GigFieldsRow({ fields, venues, onChange, first, kinds = true }: FieldsProps) {
  const text = (name: keyof GigFields, label: string, type: string) => (
    <TextField
      size="small"
      label={label}
      type={type}
      value={fields[name]}
      onChange={(event) => onChange({ ...fields, [name]: event.target.value })}
      slotProps={{ inputLabel: { shrink: true } }}
    />
  );
  const choice = (name: "venue" | "kind", label: string, options: string[], autoFocus: boolean) => (
    <Autocomplete
      freeSolo
      size="small"
      options={options}
      inputValue={fields[name]}
      onInputChange={(_, value) => onChange({ ...fields, [name]: value })}
      sx={{ flex: 1, minWidth: 130 }}
      renderInput={(params) => <TextField {...params} label={label} autoFocus={autoFocus} />}
    />
  );
  return (
    <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", pt: 1 }}>
      {choice(
        "venue",
        "Venue",
        venues.map((venue) => venue.name),
        first ?? false,
      )}
      {text("on", "Date", "date")}
      {text("begins", "From", "time")}
      {text("ends", "To", "time")}
      {kinds && choice("kind", "Kind", KINDS, false)}
    </Box>
  );
}

interface Props {
  gig: Gig;
  venues: readonly Venue[];
  actions: NightActions;
  onClose: () => void;
}

export function GigDialog({ gig, venues, actions, onClose }: Props) {
  const [fields, setFields] = useState<GigFields>({
    venue: gig.venue_id === null ? "" : whereOf(gig, venues),
    on: gig.on,
    begins: gig.begins ?? "",
    ends: gig.ends ?? "",
    kind: gig.kind,
  });
  const [name, setName] = useState(gig.name);
  const [note, setNote] = useState(gig.note);
  const save = () => {
    const { venue, on, begins, ends, kind } = fields;
    actions.change.mutate(
      { id: gig.id, venue: venue.trim(), on, begins: begins || null, ends: ends || null, kind, name, note },
      { onSuccess: onClose },
    );
  };
  return (
    <FormDialog
      title="This night"
      action="Keep"
      width="md"
      disabled={!fields.on || actions.change.isPending}
      content={{ display: "flex", flexDirection: "column", gap: 2 }}
      onSubmit={save}
      onClose={onClose}
    >
      <GigFieldsRow fields={fields} venues={venues} onChange={setFields} first />
      <TextField
        size="small"
        label="Name, if it has one"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <TextField
        multiline
        minRows={3}
        label="Notes"
        value={note}
        onChange={(event) => setNote(event.target.value)}
        slotProps={{ htmlInput: { maxLength: 4000 } }}
      />
    </FormDialog>
  );
}
