/** The one card on which tracks are edited, one or thousands: values, find and replace, cleaning up. */
import { Box, Tab, Tabs } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useEditValues } from "../api/changes";
import type { EditName, Picked } from "../api/client";
import { commonQuery } from "../api/queries";
import { EditFields, FIELDS, type Edits } from "./edit-fields";
import { FormDialog } from "./form-dialog";
import { fieldName } from "./format";
import { TextEdit, USUAL_EDITS } from "./text-edit";

type Page = "values" | "replace" | "clean";

export function EditDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const [page, setPage] = useState<Page>("values");
  // Each page keeps what was entered on it while another is looked at.
  const [edits, setEdits] = useState<Edits>({});
  const [texts, setTexts] = useState(USUAL_EDITS);
  const pages = <Pages page={page} onChoose={setPage} />;
  if (page === "values")
    return <Values picked={picked} pages={pages} edits={edits} onEdit={setEdits} onClose={onClose} />;
  return (
    <TextEdit
      key={page}
      edit={texts[page]}
      onEdit={(edit) => setTexts({ ...texts, [page]: edit })}
      picked={picked}
      pages={pages}
      onClose={onClose}
    />
  );
}

function Pages({ page, onChoose }: { page: Page; onChoose: (page: Page) => void }) {
  return (
    <Tabs
      value={page}
      onChange={(_, next: Page) => onChoose(next)}
      sx={{ minHeight: 34, mb: 1.5 }}
      aria-label="Edit"
    >
      <Tab value="values" label="Values" sx={{ minHeight: 34 }} />
      <Tab value="replace" label="Find and replace" sx={{ minHeight: 34 }} />
      <Tab value="clean" label="Clean up" sx={{ minHeight: 34 }} />
    </Tabs>
  );
}

interface ValuesProps {
  picked: Picked;
  pages: React.ReactNode;
  edits: Edits;
  onEdit: (edits: Edits) => void;
  onClose: () => void;
}

function Values({ picked, pages, edits, onEdit, onClose }: ValuesProps) {
  const common = useQuery(commonQuery(picked, FIELDS)).data;
  const edit = useEditValues();
  const names = Object.keys(edits) as EditName[];
  const set = (field: EditName, value: string | null | undefined) => {
    const rest = Object.fromEntries(Object.entries(edits).filter(([name]) => name !== field));
    onEdit(value === undefined ? rest : { ...rest, [field]: value });
  };
  const told = names.map(fieldName).join(", ");
  return (
    <FormDialog
      title={`Edit ${counted(picked.count, "track")}`}
      action={
        names.length ? `Set ${told.length > 40 ? counted(names.length, "value") : told}` : "Nothing to set"
      }
      disabled={!names.length || edit.isPending}
      touched={names.length > 0}
      width="md"
      onSubmit={() => edit.mutate({ ...picked.chosen, values: edits }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {pages}
      {common && <EditFields common={common} edits={edits} onSet={set} />}
      <Box sx={{ color: "text.secondary", fontSize: "0.8rem", mt: 1.5 }}>
        Values are kept in Vinyl; files stay as they are until tags are written. What is left alone stays as
        it is in each track. Locked tags stay, and Undo takes all back.
      </Box>
    </FormDialog>
  );
}
