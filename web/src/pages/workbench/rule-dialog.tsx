/** Changing which source wins for a field: how many tracks that changes, and some of them, before it is done. */
import { Box, DialogContentText } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { BeforeAfter } from "../../components/before-after";
import { FormDialog } from "../../components/form-dialog";
import { fieldName } from "../../components/format";

type Rule = Schema["ValueRule"];

interface Props {
  rule: Rule;
  /** Values that are too long to be read. */
  long: boolean;
  onClose: () => void;
}

export function RuleDialog({ rule, long, onClose }: Props) {
  const [first] = rule.order;
  const preview = useQuery({
    queryKey: ["value-rules", "preview", rule],
    queryFn: () => unwrap(client.POST("/api/value-rules/preview", { body: rule })),
  });
  const set = useChange(
    (body: Rule) => unwrap(client.PUT("/api/value-rules", { body })),
    () => `For the ${fieldName(rule.field)}, ${first} wins now where nothing is locked or by hand.`,
  );
  const { tracks = 0, examples = [] } = preview.data ?? {};
  return (
    <FormDialog
      title={`${fieldName(rule.field)}: prefer ${first}`}
      action={tracks ? `Change ${counted(tracks, "track")}` : "Prefer it"}
      disabled={!preview.data || set.isPending}
      width="sm"
      onSubmit={() => set.mutate(rule, { onSuccess: onClose })}
      onClose={onClose}
    >
      {!long &&
        examples.map((each, place) => (
          <BeforeAfter
            key={place}
            field={rule.field}
            title={each.title}
            before={each.before}
            after={each.after}
          />
        ))}
      {tracks > examples.length && !long && (
        <Box sx={{ py: 0.6 }}>and {counted(tracks - examples.length, "more track")}</Box>
      )}
      <DialogContentText sx={{ fontSize: "0.82rem", mt: 1.5 }}>
        {preview.error?.message ??
          (preview.isPending
            ? "Looking through the library…"
            : `${counted(tracks, "track")} would have another value. All values are kept, and Undo takes it back.`)}
      </DialogContentText>
    </FormDialog>
  );
}
