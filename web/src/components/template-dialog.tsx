import {
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  IconButton,
  List,
  ListItemButton,
  ListItemText,
  MenuItem,
  TextField,
  Typography,
} from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schema } from "../api/client";
import { counted, templatesQuery, useChange } from "../api/queries";
import { clock } from "./format";

type Template = Schema["TemplateOut"];
type TemplateCue = Schema["TemplateCueBody"];

const PLACES: TemplateCue["place"][] = ["in", "main", "out", "break", "drop"];
const TOUCHES = ["templates", "template use"];
const FIRST: TemplateCue = { place: "main", offset_beats: -32, label: "", colour: "blue", engages: false };

/** Use a template on tracks: what it would set is shown first; tracks with locked cues stay as they are. */
export function TemplateDialog({ ids, onClose }: { ids: number[]; onClose: () => void }) {
  const templates = useQuery(templatesQuery).data;
  const [chosen, setChosen] = useState<number | null>(null);
  const [editing, setEditing] = useState<Template | "new" | null>(null);
  const template = templates?.find((each) => each.id === chosen) ?? templates?.[0];
  const preview = useQuery({
    queryKey: ["template use", template?.id, template?.cues, ids],
    queryFn: () =>
      unwrap(
        client.POST("/api/templates/{template_id}/use", {
          params: { path: { template_id: template?.id ?? 0 } },
          body: { ids, apply: false },
        }),
      ),
    enabled: template !== undefined,
  }).data;
  const use = useChange(
    (id: number) =>
      unwrap(
        client.POST("/api/templates/{template_id}/use", {
          params: { path: { template_id: id } },
          body: { ids, apply: true },
        }),
      ),
    ["workbench", "rows", "template use"],
    (results) => `${counted(added(results), "cue")} set.`,
  );
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    if (template) use.mutate(template.id, { onSuccess: onClose });
  };
  if (editing)
    return <TemplateEditor template={editing === "new" ? null : editing} onClose={() => setEditing(null)} />;
  const count = preview ? added(preview) : 0;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <form onSubmit={submit}>
        <DialogTitle>Cue template for {counted(ids.length, "track")}</DialogTitle>
        <DialogContent sx={{ display: "grid", gridTemplateColumns: "200px 1fr", gap: 2 }}>
          <Box>
            <List dense aria-label="Templates">
              {templates?.map((each, i) => (
                <ListItemButton
                  key={each.id}
                  autoFocus={i === 0}
                  selected={each.id === template?.id}
                  onFocus={() => setChosen(each.id)}
                  onClick={() => setChosen(each.id)}
                >
                  <ListItemText primary={each.name} secondary={counted(each.cues.length, "cue")} />
                </ListItemButton>
              ))}
            </List>
            <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
              <Button onClick={() => setEditing("new")}>New…</Button>
              {template && <Button onClick={() => setEditing(template)}>Change…</Button>}
            </Box>
          </Box>
          <Box sx={{ fontSize: "0.84rem", maxHeight: 320, overflow: "auto" }}>
            <Typography variant="overline">What it sets</Typography>
            {preview?.map((result) => (
              <Result key={result.track_id} result={result} many={ids.length > 1} />
            ))}
            {!templates?.length && (
              <p>
                There is no template yet. Make one: so many beats from the in, main or out point, from breaks
                or drops.
              </p>
            )}
          </Box>
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!count || use.isPending}>
            {count ? `Set ${counted(count, "cue")}` : "Nothing to set"}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

function added(results: Schema["TemplateResultOut"][]): number {
  return results.reduce(
    (sum, result) => sum + (result.hindrance ? 0 : result.wanted.filter((cue) => !cue.there).length),
    0,
  );
}

function Result({ result, many }: { result: Schema["TemplateResultOut"]; many: boolean }) {
  return (
    <Box sx={{ py: 0.4, borderBottom: 1, borderColor: "divider" }}>
      {many && <Box sx={{ fontWeight: 600 }}>{result.title}</Box>}
      {result.hindrance && <Box sx={{ color: "warning.main" }}>Nothing: {result.hindrance}.</Box>}
      {!result.hindrance &&
        result.wanted.map((cue) => (
          <Box
            key={`${cue.position_s} ${cue.label}`}
            sx={{ color: cue.there ? "text.secondary" : "text.primary" }}
          >
            {clock(cue.position_s, true)} {cue.label || (cue.length_s === null ? "cue" : "loop")}
            {cue.length_s !== null && `, loop of ${cue.length_s.toFixed(1)} s`}
            {cue.there && ", a cue is there already"}
          </Box>
        ))}
    </Box>
  );
}

function TemplateEditor({ template, onClose }: { template: Template | null; onClose: () => void }) {
  const [name, setName] = useState(template?.name ?? "");
  const [cues, setCues] = useState<TemplateCue[]>(template?.cues ?? [FIRST]);
  const save = useChange(
    (body: Schema["TemplateIn"]) =>
      template
        ? unwrap(
            client.PUT("/api/templates/{template_id}", {
              params: { path: { template_id: template.id } },
              body,
            }),
          )
        : unwrap(client.POST("/api/templates", { body })),
    TOUCHES,
  );
  const remove = useChange(
    (id: number) =>
      unwrap(client.DELETE("/api/templates/{template_id}", { params: { path: { template_id: id } } })),
    TOUCHES,
  );
  const set = (place: number, change: Partial<TemplateCue>) =>
    setCues(cues.map((cue, i) => (i === place ? { ...cue, ...change } : cue)));
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    save.mutate({ name, cues }, { onSuccess: onClose });
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md">
      <form onSubmit={submit}>
        <DialogTitle>{template ? "Change the template" : "New template"}</DialogTitle>
        <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 1.2 }}>
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
            <Box key={i} sx={{ display: "flex", gap: 1, alignItems: "center" }}>
              <TextField
                type="number"
                size="small"
                label="Beats after"
                value={cue.offset_beats}
                onChange={(e) => set(i, { offset_beats: Number(e.target.value) })}
                sx={{ width: 110 }}
                title="Negative: before"
              />
              <TextField
                select
                size="small"
                label="each"
                value={cue.place}
                onChange={(e) => set(i, { place: e.target.value as TemplateCue["place"] })}
                sx={{ width: 100 }}
              >
                {PLACES.map((place) => (
                  <MenuItem key={place} value={place}>
                    {place}
                  </MenuItem>
                ))}
              </TextField>
              <TextField
                type="number"
                size="small"
                label="Loop, beats"
                value={cue.length_beats ?? ""}
                onChange={(e) => set(i, { length_beats: Number(e.target.value) || null })}
                sx={{ width: 110 }}
                placeholder="no loop"
              />
              <TextField
                size="small"
                label="Name"
                value={cue.label}
                onChange={(e) => set(i, { label: e.target.value })}
                sx={{ flex: 1 }}
                slotProps={{ htmlInput: { maxLength: 80 } }}
              />
              <TextField
                select
                size="small"
                label="Pad"
                value={cue.pad ?? 0}
                onChange={(e) => set(i, { pad: Number(e.target.value) || null })}
                sx={{ width: 80 }}
              >
                {[0, 1, 2, 3, 4, 5, 6, 7, 8].map((pad) => (
                  <MenuItem key={pad} value={pad}>
                    {pad || "none"}
                  </MenuItem>
                ))}
              </TextField>
              <IconButton
                size="small"
                aria-label="Take this cue out"
                disabled={cues.length === 1}
                onClick={() => setCues(cues.filter((_, each) => each !== i))}
              >
                ×
              </IconButton>
            </Box>
          ))}
          <Box>
            <Button onClick={() => setCues([...cues, FIRST])}>One more cue</Button>
          </Box>
        </DialogContent>
        <DialogActions>
          {template && (
            <Button
              color="error"
              sx={{ mr: "auto" }}
              onClick={() => remove.mutate(template.id, { onSuccess: onClose })}
            >
              Delete template
            </Button>
          )}
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!name.trim()}>
            Save
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
