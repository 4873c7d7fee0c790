/** What writing would change, file by file, and what cannot be written with the reason. */
import { Box } from "@mui/material";
import { counted } from "../api/changes";
import type { Schema } from "../api/client";
import { FIGURES } from "../theme";
import { BeforeAfter } from "./before-after";

export function WritePlans({ plans }: { plans: Schema["TagPlansOut"] }) {
  return (
    <Box role="list" aria-label="What would be written" sx={{ maxHeight: 260, overflow: "auto" }}>
      {plans.files.map((file) => (
        <FilePlan key={file.track_id} file={file} />
      ))}
      <Box sx={{ py: 0.6, color: "text.secondary", fontSize: "0.82rem" }}>
        {plans.unchanged > 0 &&
          `${counted(plans.unchanged, "file")} would stay as ${plans.unchanged === 1 ? "it is" : "they are"}. `}
        {plans.more > 0 && `${counted(plans.more, "more file")} will be looked at when they are written. `}
        The sound is not touched, which is checked for each file; what Vinyl does not know is left as it is.
      </Box>
    </Box>
  );
}

function FilePlan({ file }: { file: Schema["TagPlanOut"] }) {
  return (
    <Box role="listitem" sx={{ mb: 1.2 }}>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", overflowWrap: "anywhere" }}>
        {file.name}
        {file.new_name && (
          <>
            {" → "}
            <Box component="span" sx={{ fontWeight: 700 }}>
              {file.new_name}
            </Box>
          </>
        )}
      </Box>
      {file.changes.map((change) => (
        <BeforeAfter key={change.field} {...change} />
      ))}
      {(file.refused || file.note) && (
        <Box sx={{ color: "warning.main", fontSize: "0.82rem" }}>{file.refused || file.note}</Box>
      )}
    </Box>
  );
}
