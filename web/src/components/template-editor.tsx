/** Makes and changes a cue template: a line for each cue. */
import { Box, Button, IconButton, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { useChange } from "../api/changes";
import { client, unwrap, type Schema } from "../api/client";
import { FormDialog } from "./form-dialog";

type Template = Schema["TemplateOut"];
type TemplateCue = Schema["TemplateCueBody"];

const PLACES: TemplateCue["place"][] = ["in", "main", "out", "break", "drop"];
const FIRST: TemplateCue = {
  place: "main",
  offset_beats: -32,
  label: "",
  colour: "blue",
  engages: false,
};
const TEMPLATE = "/api/templates/{template_id}" as const;

function useSaved(template: Template | null) {
  const path = { template_id: template?.id ?? 0 };
  const save = useChange((body: Schema["TemplateIn"]) =>
    template
      ? unwrap(client.PUT(TEMPLATE, { params: { path }, body }))
      : unwrap(client.POST("/api/templates", { body })),
  );
  const remove = useChange(() => unwrap(client.DELETE(TEMPLATE, { params: { path } })));
  return { save, remove };
}

export function TemplateEditor({ template, onClose }: { template: Template | null; onClose: () => void }) {
  const [name, setName] = useState(template?.name ?? "");
  const [cues, setCues] = useState<TemplateCue[]>(template?.cues ?? [FIRST]);
  const { save, remove } = useSaved(template);
  const submit = () => {
    save.mutate({ name, cues }, { onSuccess: onClose });
  };
  return (
    <FormDialog
      title={template ? "Change the template" : "New template"}
      action="Save"
      disabled={!name.trim()}
      width="md"
      content={{ display: "flex", flexDirection: "column", gap: 1.2 }}
      apart={
        template && (
          <Button
            color="error"
            sx={{ mr: "auto" }}
            onClick={() => remove.mutate(undefined, { onSuccess: onClose })}
          >
            Delete template
          </Button>
        )
      }
      onSubmit={submit}
      onClose={onClose}
    >
      <TextField
        autoFocus
        required
        size="small"
        margin="dense"
        label="Name"
        value={name}
        onChange={(e) => setName(e.target.value)}
        slotProps={{ htmlInput: { maxLength: 80 } }}
      />
      {cues.map((cue, i) => (
        <CueLine
          key={i}
          cue={cue}
          onChange={(change) => setCues(cues.map((each, at) => (at === i ? { ...each, ...change } : each)))}
          onRemove={cues.length > 1 ? () => setCues(cues.filter((_, at) => at !== i)) : undefined}
        />
      ))}
      <Box>
        <Button onClick={() => setCues([...cues, FIRST])}>One more cue</Button>
      </Box>
    </FormDialog>
  );
}

interface LineProps {
  cue: TemplateCue;
  onChange: (change: Partial<TemplateCue>) => void;
  onRemove: (() => void) | undefined;
}

function CueLine({ cue, onChange, onRemove }: LineProps) {
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
      <TextField
        type="number"
        size="small"
        label="Beats after"
        value={cue.offset_beats}
        onChange={(e) => onChange({ offset_beats: Number(e.target.value) })}
        sx={{ width: 110 }}
        title="Negative: before"
      />
      <Choice
        label="each"
        value={cue.place}
        options={PLACES.map((place) => [place, place])}
        onChange={(place) => onChange({ place: place as TemplateCue["place"] })}
        width={100}
      />
      <TextField
        type="number"
        size="small"
        label="Loop, beats"
        value={cue.length_beats ?? ""}
        onChange={(e) => onChange({ length_beats: Number(e.target.value) || null })}
        sx={{ width: 110 }}
        placeholder="no loop"
      />
      <TextField
        size="small"
        label="Name"
        value={cue.label}
        onChange={(e) => onChange({ label: e.target.value })}
        sx={{ flex: 1 }}
        slotProps={{ htmlInput: { maxLength: 80 } }}
      />
      <Choice
        label="Pad"
        value={String(cue.pad ?? 0)}
        options={[0, 1, 2, 3, 4, 5, 6, 7, 8].map((pad) => [String(pad), pad ? String(pad) : "none"])}
        onChange={(pad) => onChange({ pad: Number(pad) || null })}
        width={80}
      />
      <IconButton size="small" aria-label="Take this cue out" disabled={!onRemove} onClick={onRemove}>
        ×
      </IconButton>
    </Box>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  options: [value: string, says: string][];
  onChange: (value: string) => void;
  width: number;
}

function Choice({ label, value, options, onChange, width }: ChoiceProps) {
  return (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      sx={{ width }}
    >
      {options.map(([each, says]) => (
        <MenuItem key={each} value={each}>
          {says}
        </MenuItem>
      ))}
    </TextField>
  );
}
