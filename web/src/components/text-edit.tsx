/** Edits of the texts of many tracks at once; what they change is shown before they are made. */
import { Box, Checkbox, FormControlLabel, MenuItem, TextField } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, type ReactNode } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked, type Schema } from "../api/client";
import type { TextName } from "../api/queries";
import { useRemembered } from "../settings";
import { BeforeAfter } from "./before-after";
import { FormDialog } from "./form-dialog";
import { fieldName } from "./format";

type TextEdits = Schema["TextEditIn"]["edit"];
type Case = NonNullable<Schema["CleanEdit"]["case"]>;

const FIELDS: readonly TextName[] = [
  "title",
  "artist",
  "remixer",
  "album",
  "label",
  "genre",
  "grouping",
  "comment",
];
const CASES: readonly Case[] = ["Each Word", "First word", "small", "CAPITALS"];

/** What each kind of edit begins with. */
export const USUAL_EDITS: Record<"replace" | "clean", TextEdits> = {
  replace: { kind: "replace", find: "", put: "" },
  clean: { kind: "clean", spaces: true, case: null },
};

interface Props {
  edit: TextEdits;
  onEdit: (edit: TextEdits) => void;
  picked: Picked;
  pages: ReactNode;
  onClose: () => void;
}

export function TextEdit({ edit, onEdit, picked, pages, onClose }: Props) {
  const [fields, setFields] = useRemembered<TextName[]>("edit fields", ["title", "artist"]);
  const body = { ...picked.chosen, fields, edit };
  const asked = { ...picked.chosen, fields, edit: useDeferredValue(edit) };
  const ready = [edit, asked.edit].every((each) => each.kind !== "replace" || each.find !== "");
  const preview = useQuery({
    queryKey: ["tracks", "text edit", asked],
    queryFn: ({ signal }) => unwrap(client.POST("/api/tracks/texts/preview", { body: asked, signal })),
    enabled: ready && (fields.length > 0 || edit.kind === "split names"),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const make = useChange(
    () => unwrap(client.POST("/api/tracks/texts", { body })),
    ({ total, tracks }) =>
      `${counted(total, "text")} of ${counted(tracks, "track")} edited. Undo takes it back.`,
  );
  const found = ready ? preview.data : undefined;
  return (
    <FormDialog
      title={`Edit ${counted(picked.count, "track")}`}
      action={found?.total ? `Change ${counted(found.total, "text")}` : "Nothing to change"}
      disabled={!found?.total || preview.isFetching || make.isPending}
      width="md"
      onSubmit={() => make.mutate(undefined, { onSuccess: onClose })}
      onClose={onClose}
    >
      {pages}
      {edit.kind === "replace" ? (
        <ReplaceForm edit={edit} onChange={onEdit} />
      ) : (
        <CleanForm edit={edit} onChange={onEdit} />
      )}
      {edit.kind !== "split names" && <FieldChoice fields={fields} onChange={setFields} />}
      <Box sx={{ minHeight: 180, mt: 1.5 }} aria-busy={preview.isFetching}>
        {preview.error ? preview.error.message : found && <Changes found={found} />}
      </Box>
    </FormDialog>
  );
}

function Changes({ found }: { found: Schema["TextChangesOut"] }) {
  if (!found.total)
    return (
      <Box sx={{ color: "text.secondary" }}>
        No text would be another: look for other letters, or tick more fields. Locked tags are left out.
      </Box>
    );
  return (
    <>
      {found.changes.map((change) => (
        <BeforeAfter key={`${change.track_id} ${change.field}`} {...change} />
      ))}
      {found.total > found.changes.length && (
        <Box sx={{ py: 0.6 }}>and {counted(found.total - found.changes.length, "more")}</Box>
      )}
    </>
  );
}

type Replace = Extract<TextEdits, { kind: "replace" }>;

function ReplaceForm({ edit, onChange }: { edit: Replace; onChange: (edit: TextEdits) => void }) {
  return (
    <Box sx={{ display: "flex", gap: 1.2, alignItems: "center", flexWrap: "wrap" }}>
      <TextField
        autoFocus
        size="small"
        label="Find"
        value={edit.find}
        onChange={(event) => onChange({ ...edit, find: event.target.value })}
      />
      <TextField
        size="small"
        label="Put in its place"
        value={edit.put ?? ""}
        onChange={(event) => onChange({ ...edit, put: event.target.value })}
      />
      <Tick
        label="whole words"
        on={edit.whole_words ?? false}
        onChange={(whole_words) => onChange({ ...edit, whole_words })}
      />
      <Tick
        label="capitals count"
        on={edit.match_case ?? false}
        onChange={(match_case) => onChange({ ...edit, match_case })}
      />
    </Box>
  );
}

function CleanForm({ edit, onChange }: { edit: TextEdits; onChange: (edit: TextEdits) => void }) {
  const clean = edit.kind === "clean" ? edit : null;
  return (
    <Box sx={{ display: "flex", gap: 1.2, alignItems: "center", flexWrap: "wrap" }}>
      <TextField
        select
        size="small"
        label="What"
        value={edit.kind}
        sx={{ width: 260 }}
        onChange={(event) =>
          onChange(event.target.value === "clean" ? USUAL_EDITS.clean : { kind: "split names" })
        }
      >
        <MenuItem value="clean">white space and case</MenuItem>
        <MenuItem value="split names">take “artist - title” apart</MenuItem>
      </TextField>
      {clean && (
        <>
          <Tick
            label="white space"
            on={clean.spaces ?? true}
            onChange={(spaces) => onChange({ ...clean, spaces })}
          />
          <TextField
            select
            size="small"
            label="Case"
            value={clean.case ?? ""}
            sx={{ width: 150 }}
            onChange={(event) => onChange({ ...clean, case: (event.target.value || null) as Case | null })}
            slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
          >
            <MenuItem value="">as it is</MenuItem>
            {CASES.map((each) => (
              <MenuItem key={each} value={each}>
                {each}
              </MenuItem>
            ))}
          </TextField>
        </>
      )}
    </Box>
  );
}

function FieldChoice({ fields, onChange }: { fields: TextName[]; onChange: (fields: TextName[]) => void }) {
  return (
    <Box role="group" aria-label="In which texts" sx={{ mt: 1 }}>
      {FIELDS.map((field) => (
        <Tick
          key={field}
          label={fieldName(field)}
          on={fields.includes(field)}
          onChange={(on) => onChange(on ? [...fields, field] : fields.filter((each) => each !== field))}
        />
      ))}
    </Box>
  );
}

function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <FormControlLabel
      label={label}
      control={<Checkbox size="small" checked={on} onChange={(_e, next) => onChange(next)} />}
      slotProps={{ typography: { sx: { fontSize: "0.86rem" } } }}
    />
  );
}
