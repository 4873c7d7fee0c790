/** Writing what is known into the files of tracks: what, in which form, and what it changes in each, before it is done. */
import { Alert, Box } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked, type Schema } from "../api/client";
import { useRemembered } from "../settings";
import { FormDialog } from "./form-dialog";
import { USUAL_FORM, WriteForm, type Form } from "./write-form";
import { WritePlans } from "./write-plans";

export function WriteDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const [form, setForm] = useRemembered<Form>("write form", USUAL_FORM);
  const [asked, setAsked] = useState(form);
  const plan = usePlan({ ...asked, ...picked.chosen });
  const write = useChange(
    () => unwrap(client.POST("/api/tags/write", { body: { ...asked, ...picked.chosen } })),
    () => "The files are being written; what they had can be put back from Work.",
  );
  const change = (next: Form) => {
    setForm(next);
    setAsked(next);
  };
  const found = plan.data;
  const files = found?.files.filter((file) => file.changes.length || file.new_name) ?? [];
  const some = files.length > 0 || (found?.more ?? 0) > 0;
  return (
    <FormDialog
      title={`Write into ${counted(picked.count, "file")}`}
      action={some ? `Write into ${counted(files.length + (found?.more ?? 0), "file")}` : "Nothing to write"}
      disabled={!some || plan.isFetching || write.isPending}
      width="md"
      onSubmit={() => write.mutate(undefined, { onSuccess: onClose })}
      onClose={onClose}
    >
      <WriteForm form={form} onChange={change} />
      <Box sx={{ minHeight: 200, mt: 2 }} aria-busy={plan.isFetching}>
        {plan.error && <Alert severity="error">{plan.error.message}</Alert>}
        {!found && plan.isPending && "Reading the files…"}
        {found && !plan.error && <WritePlans plans={found} />}
      </Box>
    </FormDialog>
  );
}

function usePlan(body: Schema["WriteIn"]) {
  return useQuery({
    queryKey: ["tracks", "write plan", body],
    queryFn: ({ signal }) => unwrap(client.POST("/api/tags/plan", { body, signal })),
    placeholderData: keepPreviousData,
    retry: false,
  });
}
