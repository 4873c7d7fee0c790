/** What players wrote on a stick and is left out, because it cannot be: line by line, the rest counts. */
import { Box } from "@mui/material";
import { plural } from "../../components/format";

export function LeftOutLines({ lines }: { lines: string[] }) {
  return (
    <Box component="details" sx={{ color: "warning.main", fontSize: "0.86rem", maxWidth: 900 }}>
      <Box component="summary" sx={{ cursor: "pointer" }}>
        {plural(lines.length, "line")} written on this stick cannot be used and{" "}
        {lines.length === 1 ? "is" : "are"} left out; everything else counts.
      </Box>
      <Box component="ul" sx={{ m: 0, pl: 2.5, color: "text.secondary", overflowWrap: "anywhere" }}>
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </Box>
    </Box>
  );
}
