/** The entries of a playlist with where each is; what is missing stands first. */
import { Box } from "@mui/material";
import { counted } from "../../api/changes";
import type { Schema } from "../../api/client";
import { FIGURES } from "../../theme";

type Look = Schema["LookOut"];
type Entry = Schema["EntryOut"];

export const STATES: Record<Entry["state"], { sign: string; words: string; count: keyof Look["counts"] }> = {
  here: { sign: "=", words: "in the library", count: "here" },
  "by name": { sign: "≈", words: "by artist and title", count: "by_name" },
  "on disk": { sign: "+", words: "to be imported", count: "on_disk" },
  wanted: { sign: "?", words: "not found, kept as wanted", count: "wanted" },
};

export function EntryList({ look }: { look: Look }) {
  const more = look.total - look.entries.length;
  return (
    <Box
      role="list"
      aria-label="Entries"
      sx={{ maxHeight: 240, overflow: "auto", borderTop: 1, borderColor: "divider" }}
    >
      {look.entries.map((entry, i) => (
        <EntryLine key={i} entry={entry} />
      ))}
      {more > 0 && (
        <Box sx={{ py: 0.6, color: "text.secondary" }}>and {counted(more, "more entry", "more entries")}</Box>
      )}
    </Box>
  );
}

function EntryLine({ entry }: { entry: Entry }) {
  const { sign, words } = STATES[entry.state];
  const name = [entry.artist, entry.title].filter(Boolean).join(" – ");
  return (
    <Box
      role="listitem"
      sx={{
        display: "grid",
        gridTemplateColumns: "22px 1fr auto",
        gap: 1,
        py: 0.5,
        borderBottom: 1,
        borderColor: "divider",
        fontSize: "0.86rem",
      }}
    >
      <Box
        aria-hidden
        sx={{ fontFamily: FIGURES, color: entry.state === "wanted" ? "warning.main" : "inherit" }}
      >
        {sign}
      </Box>
      <Box sx={{ overflowWrap: "anywhere", minWidth: 0 }}>
        {name || entry.path.split(/[\\/]/).pop()}
        <Box sx={{ fontFamily: FIGURES, fontSize: "0.7rem", color: "text.secondary" }}>
          {entry.file ?? entry.path}
        </Box>
      </Box>
      <Box sx={{ color: "text.secondary", fontSize: "0.78rem", textAlign: "right", maxWidth: 260 }}>
        {entry.state === "wanted" ? entry.reason : words}
      </Box>
    </Box>
  );
}
