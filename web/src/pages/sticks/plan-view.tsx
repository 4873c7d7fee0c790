/** The plan of a packing: what is written, converted, kept and removed, and whether it fits. */
import { Alert, Box, Button, Typography } from "@mui/material";
import type { Schema, Stick } from "../../api/client";
import { size } from "../../components/format";
import { FIGURES } from "../../theme";
import { Capacity } from "./capacity";

type Plan = Schema["PlanOut"];
type Action = Schema["PlannedTrackOut"]["action"];
const MOST_LISTED = 300;

const countOf = (plan: Plan, ...actions: Action[]): number =>
  plan.tracks.filter((track) => actions.includes(track.action)).length;

interface Props {
  plan: Plan;
  stick: Stick;
  onPack: () => void;
}

export function PlanView({ plan, stick, onPack }: Props) {
  const changes = countOf(plan, "copy", "convert", "update") + plan.removed.length;
  const carried = stick.crate_ids.length > 0;
  return (
    <>
      <Typography variant="h2">The plan</Typography>
      <Sums plan={plan} />
      <Box>
        <Capacity
          used={plan.capacity_bytes - plan.free_bytes - plan.removed_bytes}
          added={plan.write_bytes}
          capacity={plan.capacity_bytes}
        />
        <Box sx={{ fontSize: "0.8rem", color: "text.secondary", mt: 0.4 }}>
          {size(plan.free_bytes)} free of {size(plan.capacity_bytes)} now
        </Box>
      </Box>
      {plan.missing_bytes > 0 && (
        <Alert severity="error">
          It does not fit: {size(plan.missing_bytes)} too much. Leave a crate out, or use a larger stick.
        </Alert>
      )}
      {plan.left_out.map((text) => (
        <Alert key={text} severity="warning" variant="outlined">
          {text}
        </Alert>
      ))}
      <Box>
        <Button
          variant="contained"
          color="error"
          size="medium"
          disabled={plan.missing_bytes > 0 || (!carried && !changes)}
          onClick={onPack}
        >
          {changes || !stick.last_run ? "Pack the stick" : "Pack again"}
        </Button>
        {!carried && (
          <Box component="span" sx={{ ml: 1.5, color: "text.secondary" }}>
            Choose a crate first.
          </Box>
        )}
      </Box>
      <Files plan={plan} />
    </>
  );
}

function Sums({ plan }: { plan: Plan }) {
  const updates = countOf(plan, "update");
  const removed = plan.removed_bytes ? `to remove, ${size(plan.removed_bytes)}` : "to remove";
  return (
    <Box sx={{ display: "flex", gap: 3, flexWrap: "wrap" }}>
      <Sum
        value={String(countOf(plan, "copy", "convert"))}
        text={`to write, about ${size(plan.write_bytes)}`}
      />
      <Sum value={String(countOf(plan, "convert"))} text="of them to convert" />
      <Sum
        value={String(countOf(plan, "keep", "update"))}
        text={`there already${updates ? `, ${updates} with new grid or cues` : ""}`}
      />
      <Sum value={String(plan.removed.length)} text={removed} />
    </Box>
  );
}

function Sum({ value, text }: { value: string; text: string }) {
  return (
    <Box sx={{ minWidth: 90 }}>
      <Box sx={{ fontFamily: FIGURES, fontSize: "1.5rem", lineHeight: 1.2 }}>{value}</Box>
      <Box sx={{ fontSize: "0.8rem", color: "text.secondary" }}>{text}</Box>
    </Box>
  );
}

function Files({ plan }: { plan: Plan }) {
  const more = plan.tracks.length - MOST_LISTED;
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider" }} role="list" aria-label="Files in the plan">
      {plan.removed.map((file) => (
        <FileRow key={file} action="remove" file={file} bytes={null} />
      ))}
      {plan.tracks.slice(0, MOST_LISTED).map((track) => (
        <FileRow key={track.file} action={track.action} file={track.file} bytes={track.size_bytes} />
      ))}
      {more > 0 && <Box sx={{ py: 1, color: "text.secondary" }}>and {more} more</Box>}
    </Box>
  );
}

const SIGNS: Record<Action | "remove", string> = {
  copy: "+ write",
  convert: "+ convert",
  keep: "= keep",
  update: "≈ update",
  remove: "− remove",
};

interface RowProps {
  action: Action | "remove";
  file: string;
  bytes: number | null;
}

function FileRow({ action, file, bytes }: RowProps) {
  return (
    <Box
      role="listitem"
      sx={{
        display: "grid",
        gridTemplateColumns: "96px minmax(0, 1fr) 80px",
        gap: 1.5,
        py: 0.5,
        borderBottom: 1,
        borderColor: "divider",
        fontSize: "0.85rem",
      }}
    >
      <Box
        sx={({ inks }) => ({
          fontWeight: 600,
          color: action === "keep" ? inks.faint : action === "remove" ? inks.now : inks.sure,
        })}
      >
        {SIGNS[action]}
      </Box>
      <Box sx={{ overflowWrap: "anywhere" }}>{file}</Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", textAlign: "right" }}>
        {bytes === null ? "" : `${action === "convert" ? "~" : ""}${size(bytes)}`}
      </Box>
    </Box>
  );
}
