/** What is known of a venue, and which gigs come again there. */
import { Box, Button, FormControlLabel, MenuItem, Switch, TextField } from "@mui/material";
import { useState } from "react";
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { Confirm } from "../../components/confirm";
import { FormDialog } from "../../components/form-dialog";
import type { Logbook, Venue } from "./use-logbook";
import { DAYS } from "./words";

type Weekly = Schema["RecurringBody"];

interface Props {
  venue: Venue;
  logbook: Logbook;
  onClose: () => void;
}

export function VenueDialog({ venue, logbook, onClose }: Props) {
  const [said, setSaid] = useState(venue);
  const [deleting, setDeleting] = useState(false);
  const params = { path: { venue_id: venue.id } };
  const save = useChange(() => {
    const { name, clean_words, players, note, recurring } = said;
    const body = { name: name.trim(), clean_words, players, note, recurring };
    return unwrap(client.PATCH("/api/venues/{venue_id}", { params, body }));
  });
  const remove = useChange(() => unwrap(client.DELETE("/api/venues/{venue_id}", { params })));
  const gone = () => {
    logbook.go({ venue: null });
    onClose();
  };
  const text = (name: "name" | "players" | "note", label: string) => (
    <TextField
      size="small"
      label={label}
      multiline={name === "note"}
      value={said[name]}
      onChange={(event) => setSaid({ ...said, [name]: event.target.value })}
    />
  );
  return (
    <FormDialog
      title="This venue"
      action="Keep"
      width="sm"
      disabled={!said.name.trim() || save.isPending}
      content={{ display: "flex", flexDirection: "column", gap: 1.6, "&&": { pt: 1 } }}
      apart={
        <Button onClick={() => setDeleting(true)} sx={{ mr: "auto" }}>
          Delete…
        </Button>
      }
      onSubmit={() => save.mutate(undefined, { onSuccess: onClose })}
      onClose={onClose}
    >
      {text("name", "Name")}
      <FormControlLabel
        control={
          <Switch checked={said.clean_words} onChange={(_, on) => setSaid({ ...said, clean_words: on })} />
        }
        label="Clean words only: what is explicit is warned of"
      />
      {text("players", "Which players stand there")}
      {text("note", "Notes")}
      <Comes venue={said} onChange={(recurring) => setSaid({ ...said, recurring })} />
      <Confirm
        open={deleting}
        title={`Delete ${venue.name}?`}
        action="Delete the venue"
        onConfirm={() => remove.mutate(undefined, { onSuccess: gone })}
        onClose={() => setDeleting(false)}
      >
        Its nights stay in the Logbook, without a venue. Undo brings it back.
      </Confirm>
    </FormDialog>
  );
}

/** "Fridays, from 21:00 to 23:30": the gigs that come again. */
function Comes({ venue, onChange }: { venue: Venue; onChange: (recurring: Weekly[]) => void }) {
  const { recurring } = venue;
  const put = (at: number, change: Partial<Weekly>) =>
    onChange(recurring.map((each, i) => (i === at ? { ...each, ...change, said: true } : each)));
  const add = () =>
    onChange([
      ...recurring,
      { venue_id: venue.id, weekday: 4, begins: "21:00", ends: null, kind: "weekly", said: true },
    ]);
  return (
    <Box>
      <Box sx={{ fontWeight: 600, mb: 0.5 }}>Comes again</Box>
      {recurring.map((each, at) => (
        <Box key={at} sx={{ display: "flex", gap: 1, alignItems: "center", mb: 1 }}>
          <TextField
            select
            size="small"
            label="Each"
            value={each.weekday}
            onChange={(e) => put(at, { weekday: Number(e.target.value) })}
          >
            {DAYS.map((day, i) => (
              <MenuItem key={day} value={i}>
                {day}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            size="small"
            type="time"
            label="From"
            value={each.begins}
            onChange={(e) => e.target.value && put(at, { begins: e.target.value })}
          />
          <TextField
            size="small"
            type="time"
            label="To"
            value={each.ends ?? ""}
            onChange={(e) => put(at, { ends: e.target.value || null })}
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <Button onClick={() => onChange(recurring.filter((_, i) => i !== at))}>Not any more</Button>
          {!each.said && <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>seen in its nights</Box>}
        </Box>
      ))}
      <Button onClick={add}>Add a day</Button>
    </Box>
  );
}
