/** One text of a track as it is and as it will be. */
import { Box } from "@mui/material";
import { fieldName } from "./format";

interface Props {
  /** Whose it is, where several tracks are shown. */
  title?: string;
  field: string;
  before: string | null;
  after: string | null;
  note?: string;
}

export function BeforeAfter({ title, field, before, after, note }: Props) {
  return (
    <Box
      sx={{
        ...{ display: "grid", gridTemplateColumns: "150px 1fr 1fr 110px", gap: 1.5, alignItems: "baseline" },
        ...{
          borderBottom: 1,
          borderColor: "divider",
          py: 0.5,
          fontSize: "0.88rem",
          overflowWrap: "anywhere",
        },
      }}
    >
      <Box sx={{ color: "text.secondary" }}>
        {fieldName(field)}
        {title && <Box sx={{ fontSize: "0.76rem" }}>{title}</Box>}
      </Box>
      <Box sx={{ color: "text.secondary" }}>{before ?? "–"}</Box>
      <Box sx={{ fontWeight: 600 }}>{after ?? "–"}</Box>
      <Box sx={{ color: "text.secondary", fontSize: "0.78rem" }}>{note}</Box>
    </Box>
  );
}
