/** The plan of a packing: what is written, converted, kept and removed, what to look at first, whether it fits. */
import { Alert, Box, Button, Typography } from "@mui/material";
import { useState } from "react";
import type { Schema, Stick } from "../../api/client";
import { plural, size } from "../../components/format";
import { FIGURES } from "../../theme";
import { NotFitting } from "./not-fitting";
import { Problems } from "./problems";
import { TakeOffDialog } from "./take-off-dialog";
import type { StickActions } from "./use-stick-actions";

export type Plan = Schema["PlanOut"];
type File = Plan["files"][number];
const MOST_LISTED = 300;

interface Props {
  plan: Plan;
  stick: Stick;
  act: StickActions;
}

export function PlanView({ plan, stick, act }: Props) {
  const carried = stick.crate_ids.length > 0;
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 2 }}>
        <Typography variant="h2">The plan</Typography>
        <Box sx={{ ml: "auto", fontFamily: FIGURES, fontSize: "0.84rem" }}>
          {size(plan.write_bytes)} to write{timeOf(plan)}
        </Box>
      </Box>
      <Bar plan={plan} />
      <Sums plan={plan} />
      {plan.missing_bytes > 0 && <NotFitting plan={plan} stick={stick} act={act} />}
      {plan.damaged.length > 0 && (
        <Alert severity="warning" variant="outlined">
          {plan.damaged.slice(0, 3).join(", ")}
          {plan.damaged.length > 3 ? ` and ${plan.damaged.length - 3} more` : ""}:{" "}
          {plural(plan.damaged.length, "file")} on it {plan.damaged.length === 1 ? "is" : "are"} damaged or
          gone, and will be written anew.
        </Alert>
      )}
      <Box>
        <Button
          variant="contained"
          color="error"
          size="medium"
          disabled={plan.missing_bytes > 0 || (!carried && plan.is_empty)}
          onClick={() => act.pack.mutate(undefined)}
        >
          {plan.is_empty ? "Pack again" : "Pack the stick"}
        </Button>
        <Box component="span" sx={{ ml: 1.5, color: "text.secondary" }}>
          {!carried
            ? "Choose a crate first."
            : plan.is_empty
              ? "It is as it should be: nothing would be written."
              : ""}
        </Box>
      </Box>
      <Problems plan={plan} />
      <Files plan={plan} stick={stick} />
    </>
  );
}

const timeOf = ({ seconds }: Plan): string => {
  if (!seconds || seconds < 1) return "";
  return seconds < 90 ? `, about ${Math.round(seconds)} s` : `, about ${Math.round(seconds / 60)} min`;
};

const actionOf = (file: File): File["action"] | "update" =>
  file.action === "keep" && file.changes.length ? "update" : file.action;

const countOf = (plan: Plan, ...actions: ReturnType<typeof actionOf>[]): number =>
  plan.files.filter((file) => actions.includes(actionOf(file))).length;

/** The whole stick as a bar: what stays, what is new, what is converted, what is free. */
function Bar({ plan }: { plan: Plan }) {
  const sizeOf = (...actions: File["action"][]) =>
    plan.files
      .filter(({ action }) => actions.includes(action))
      .reduce((sum, file) => sum + file.size_bytes, 0);
  const used = plan.capacity_bytes - plan.free_bytes - plan.removed_bytes;
  const whole = Math.max(plan.capacity_bytes, used + plan.write_bytes, 1);
  return (
    <Box
      aria-hidden
      sx={{ display: "flex", height: 22, border: 1, borderColor: "text.primary", overflow: "hidden" }}
    >
      <Box sx={{ width: `${(100 * used) / whole}%`, bgcolor: "text.primary" }} />
      <Box sx={{ width: `${(100 * sizeOf("copy")) / whole}%`, bgcolor: "info.main" }} />
      <Box sx={{ width: `${(100 * sizeOf("convert")) / whole}%`, bgcolor: "warning.main" }} />
    </Box>
  );
}

function Sums({ plan }: { plan: Plan }) {
  const sums = [
    { count: countOf(plan, "keep"), text: "as they are", colour: "text.primary" },
    { count: countOf(plan, "update"), text: "with new cues, grid or texts", colour: "success.main" },
    { count: countOf(plan, "copy"), text: "new", colour: "info.main" },
    { count: countOf(plan, "convert"), text: "to convert", colour: "warning.main" },
    { count: plan.removed.length, text: "go, in no list any more", colour: "error.main" },
  ];
  return (
    <Box sx={{ display: "flex", gap: 2.5, flexWrap: "wrap", fontSize: "0.9rem" }}>
      {sums
        .filter(({ count }) => count)
        .map(({ count, text, colour }) => (
          <Box key={text} sx={{ color: colour }}>
            <b>{count.toLocaleString("en")}</b> {text}
          </Box>
        ))}
      <Box sx={{ ml: "auto", color: "text.secondary" }}>
        {size(plan.free_bytes)} free of {size(plan.capacity_bytes)} now
      </Box>
    </Box>
  );
}

function Files({ plan, stick }: { plan: Plan; stick: Stick }) {
  const [off, setOff] = useState<File | null>(null);
  const changing = plan.files.filter((file) => actionOf(file) !== "keep");
  const rest = plan.files.filter((file) => actionOf(file) === "keep");
  const shown = [...changing, ...rest].slice(0, MOST_LISTED);
  const more = plan.files.length - shown.length;
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider" }} role="list" aria-label="Files in the plan">
      {plan.removed.map((file) => (
        <FileRow key={file} sign="− remove" file={file} says="" bytes="" />
      ))}
      {shown.map((file) => (
        <FileRow
          key={file.file}
          sign={SIGNS[actionOf(file)]}
          file={file.file}
          says={saysOf(file)}
          bytes={`${file.action === "convert" ? "~" : ""}${size(file.size_bytes)}`}
          title={file.title}
          onOff={() => setOff(file)}
        />
      ))}
      {more > 0 && <Box sx={{ py: 1, color: "text.secondary" }}>and {more.toLocaleString("en")} more</Box>}
      {off && (
        <TakeOffDialog stick={stick} trackId={off.track_id} title={off.title} onClose={() => setOff(null)} />
      )}
    </Box>
  );
}

function saysOf(file: File): string {
  if (file.action === "convert") return `becomes ${file.form.toUpperCase()}`;
  return file.changes.filter((part) => part !== "new" && part !== "file").join(", ");
}

const SIGNS = { copy: "+ write", convert: "+ convert", keep: "= keep", update: "≈ update" };

interface RowProps {
  sign: string;
  file: string;
  says: string;
  bytes: string;
  title?: string;
  onOff?: () => void;
}

function FileRow({ sign, file, says, bytes, title, onOff }: RowProps) {
  return (
    <Box
      role="listitem"
      sx={{
        ...{ display: "grid", gridTemplateColumns: "90px minmax(0, 1fr) auto 80px 52px", gap: 1.5, py: 0.3 },
        ...{ borderBottom: 1, borderColor: "divider", fontSize: "0.85rem", alignItems: "center" },
      }}
    >
      <Box
        sx={({ inks }) => ({
          fontWeight: 600,
          color: sign.startsWith("=") ? inks.faint : sign.startsWith("−") ? inks.now : inks.sure,
        })}
      >
        {sign}
      </Box>
      <Box sx={{ overflowWrap: "anywhere" }}>{file}</Box>
      <Box sx={{ color: "text.secondary" }}>{says}</Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", textAlign: "right" }}>{bytes}</Box>
      {onOff && (
        <Button title={`Take ${title} off this stick, or off all`} onClick={onOff}>
          Off…
        </Button>
      )}
    </Box>
  );
}
