/** Use a template on tracks: what it would set is shown first; tracks with locked cues stay as they are. */
import { Box, Button, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked, type Schema } from "../api/client";
import { templatePreviewQuery, templatesQuery } from "../api/queries";
import { ChoiceList } from "./choice-list";
import { FormDialog } from "./form-dialog";
import { clock } from "./format";
import { TemplateEditor } from "./template-editor";

type Template = Schema["TemplateOut"];
type Preview = Schema["TemplatePreview"];
type Result = Schema["TemplateResultOut"];

interface Props {
  picked: Picked;
  /** What the template that is proposed first is to set. */
  sets?: "in" | "main" | "out";
  onClose: () => void;
}

export function TemplateDialog({ picked, sets, onClose }: Props) {
  const templates = useQuery(templatesQuery).data;
  const [chosen, setChosen] = useState<number | null>(null);
  const [editing, setEditing] = useState<Template | "new" | null>(null);
  const template = templates?.find((each) => each.id === chosen) ?? firstOf(templates, sets);
  const preview = useQuery(templatePreviewQuery(template, picked));
  const use = useTemplate(picked);
  const takeAway = useTakeAway(picked);
  const submit = () => {
    if (template) use.mutate(template.id, { onSuccess: onClose });
  };
  if (editing)
    return <TemplateEditor template={editing === "new" ? null : editing} onClose={() => setEditing(null)} />;
  const count = preview.data ? added(preview.data.results) : 0;
  const more = preview.data?.more ?? 0;
  const there = preview.data ? made(preview.data.results) : 0;
  return (
    <FormDialog
      title={`Cue template for ${counted(picked.count, "track")}`}
      action={
        more
          ? `Use on ${counted(picked.count, "track")}`
          : count
            ? `Set ${counted(count, "cue")}`
            : "Nothing to set"
      }
      disabled={(!count && !more) || use.isPending}
      width="sm"
      others={
        template &&
        there > 0 && (
          <Button
            disabled={takeAway.isPending}
            onClick={() => takeAway.mutate(template.id, { onSuccess: onClose })}
          >
            {more ? "Delete what it has set" : `Delete the ${there} it has set`}
          </Button>
        )
      }
      content={{ display: "grid", gridTemplateColumns: "200px 1fr", gap: 2 }}
      apart={
        preview.error && (
          <Box role="alert" sx={{ color: "error.main", mr: "auto", pl: 2 }}>
            {preview.error.message}
          </Box>
        )
      }
      onSubmit={submit}
      onClose={onClose}
    >
      <Choice templates={templates ?? []} chosen={template} onChoose={setChosen} onEdit={setEditing} />
      <Told preview={preview.data} many={picked.count > 1} none={templates?.length === 0} />
    </FormDialog>
  );
}

function firstOf(templates: Template[] | undefined, sets: Props["sets"]): Template | undefined {
  const setting = sets && templates?.find(({ cues }) => cues.some(({ role }) => role === sets));
  return setting ?? templates?.[0];
}

function useTemplate(picked: Picked) {
  return useChange(
    (id: number) =>
      unwrap(
        client.POST("/api/templates/{template_id}/use", {
          params: { path: { template_id: id } },
          body: picked.chosen,
        }),
      ),
    ({ cues, tracks, hindered, job }) => {
      if (job) return `The template is used on ${counted(picked.count, "track")} in the background.`;
      const left = hindered ? ` ${counted(hindered, "track")} left as they were.` : "";
      return `${counted(cues, "cue")} set on ${counted(tracks, "track")}.${left}`;
    },
  );
}

function useTakeAway(picked: Picked) {
  return useChange(
    (id: number) =>
      unwrap(
        client.POST("/api/templates/{template_id}/take-away", {
          params: { path: { template_id: id } },
          body: picked.chosen,
        }),
      ),
    ({ cues, tracks, job }) =>
      job
        ? `What the template set on ${counted(picked.count, "track")} is deleted in the background.`
        : `${counted(cues, "cue")} of ${counted(tracks, "track")} deleted; Ctrl Z brings them back.`,
  );
}

interface ChoiceProps {
  templates: Template[];
  chosen: Template | undefined;
  onChoose: (id: number) => void;
  onEdit: (what: Template | "new") => void;
}

function Choice({ templates, chosen, onChoose, onEdit }: ChoiceProps) {
  return (
    <Box>
      <ChoiceList
        label="Templates"
        choices={templates.map(({ id, name, cues }) => ({
          id,
          primary: name,
          secondary: counted(cues.length, "cue"),
        }))}
        chosen={chosen?.id}
        onChoose={onChoose}
      />
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <Button onClick={() => onEdit("new")}>New…</Button>
        {chosen && <Button onClick={() => onEdit(chosen)}>Change…</Button>}
      </Box>
    </Box>
  );
}

function added(results: Result[]): number {
  const set = (result: Result) => (result.hindrance ? [] : result.wanted.filter((cue) => !cue.there));
  return results.reduce((sum, result) => sum + set(result).length, 0);
}

/** How many cues stand that a template has set and may be deleted. */
function made(results: Result[]): number {
  return results.reduce((sum, result) => sum + (result.hindrance ? 0 : result.made.length), 0);
}

/** What the template would set on the first tracks, and on how many more. */
function Told({ preview, many, none }: { preview: Preview | undefined; many: boolean; none: boolean }) {
  return (
    <Box sx={{ fontSize: "0.84rem", maxHeight: 320, overflow: "auto" }}>
      <Typography variant="overline">What it sets</Typography>
      {preview?.results.map((result) => (
        <OneTrack key={result.track_id} result={result} many={many} />
      ))}
      {preview && preview.more > 0 && (
        <Box sx={{ py: 0.6 }}>and whatever fits on {counted(preview.more, "more track")}</Box>
      )}
      {none && (
        <p>
          There is no template yet. Make one: so many beats from the in, main or out point, from breaks or
          drops.
        </p>
      )}
    </Box>
  );
}

function OneTrack({ result, many }: { result: Result; many: boolean }) {
  return (
    <Box sx={{ py: 0.4, borderBottom: 1, borderColor: "divider" }}>
      {many && <Box sx={{ fontWeight: 600 }}>{result.title}</Box>}
      {result.hindrance && <Box sx={{ color: "warning.main" }}>Nothing: {result.hindrance}.</Box>}
      {!result.hindrance &&
        result.wanted.map((cue, place) => (
          <Box key={place} sx={{ color: cue.there ? "text.secondary" : "text.primary" }}>
            {clock(cue.position_s, true)} {cue.label || (cue.length_s === null ? "cue" : "loop")}
            {cue.length_s !== null && `, loop of ${cue.length_s.toFixed(1)} s`}
            {cue.there && ", a cue is there already"}
          </Box>
        ))}
    </Box>
  );
}
