/** What a set is called, where and when it is, and what its tray begins with. */
import { MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { cratesQuery, gigsQuery, venuesQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";
import { day } from "../../components/format";
import { whereOf } from "../logbook/words";
import { GigFieldsRow } from "../logbook/gig-dialog";
import type { Facts } from "./use-sets";

interface Props {
  title: string;
  action: string;
  facts?: Facts;
  /** Whether the tray can begin with a list or a night. */
  from?: boolean;
  onDone: (body: Schema["SetIn"]) => void;
  onClose: () => void;
}

export function SetDialog({ title, action, facts, from = false, onDone, onClose }: Props) {
  const venues = useQuery(venuesQuery).data ?? [];
  const [name, setName] = useState(facts?.name ?? "");
  const [fields, setFields] = useState({
    ...{ venue: facts?.venue ?? "", on: facts?.on_day ?? "", kind: "" },
    ...{ begins: facts?.begins ?? "", ends: facts?.ends ?? "" },
  });
  const [source, setSource] = useState("");
  const submit = () => {
    const [kind, id] = source.split(" ");
    const { venue, on: on_day, begins, ends } = fields;
    const more = kind === "crate" ? { crate_id: Number(id) } : kind === "gig" ? { gig_id: Number(id) } : {};
    onDone({ name: name.trim(), venue, on_day, begins, ends, ...more });
    onClose();
  };
  return (
    <FormDialog
      title={title}
      action={action}
      width="sm"
      disabled={!name.trim()}
      onSubmit={submit}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Name"
        value={name}
        onChange={(event) => setName(event.target.value)}
        onFocus={(event) => event.target.select()}
        slotProps={{ htmlInput: { maxLength: 120 } }}
      />
      <GigFieldsRow fields={fields} venues={venues} onChange={setFields} kinds={false} />
      {from && <Source value={source} onChange={setSource} />}
    </FormDialog>
  );
}

/** A list, or a night, whose tracks are the first in the tray. */
function Source({ value, onChange }: { value: string; onChange: (value: string) => void }) {
  const crates = useQuery(cratesQuery).data ?? [];
  const gigs = useQuery(gigsQuery()).data ?? [];
  const venues = useQuery(venuesQuery).data ?? [];
  return (
    <TextField
      select
      fullWidth
      size="small"
      margin="normal"
      label="The tray begins with"
      value={value}
      onChange={(event) => onChange(event.target.value)}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      <MenuItem value="">nothing yet</MenuItem>
      {gigs.slice(0, 12).map((gig) => (
        <MenuItem key={`gig ${gig.id}`} value={`gig ${gig.id}`}>
          the night of {day(gig.on)}, {whereOf(gig, venues)}
        </MenuItem>
      ))}
      {crates
        .filter(({ is_folder }) => !is_folder)
        .map((crate) => (
          <MenuItem key={`crate ${crate.id}`} value={`crate ${crate.id}`}>
            the crate {crate.name}
          </MenuItem>
        ))}
    </TextField>
  );
}
