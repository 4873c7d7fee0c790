/** What is wrong with the sound of a file, each with the way to where it can be heard. */
import { Box, Button, Typography } from "@mui/material";
import type { Track } from "../../api/client";
import { engine } from "../../audio/engine";
import { clock } from "../../components/format";

export function Sound({ findings }: { findings: Track["findings"] }) {
  return (
    <Box>
      <Typography variant="overline">The sound</Typography>
      {findings.map(({ kind, words, at_s }) => (
        <Box
          key={kind}
          data-finding={kind}
          sx={{
            ...{ display: "flex", gap: 1, alignItems: "center", justifyContent: "space-between" },
            ...{ borderTop: 1, borderColor: "divider", py: 0.4, fontSize: "0.84rem" },
          }}
        >
          <Box>
            <Box component="span" sx={{ color: "warning.main", fontWeight: 700, mr: 0.6 }}>
              !
            </Box>
            {words}
          </Box>
          {at_s !== null && (
            <Button
              onClick={() => engine.seek(Math.max(at_s - 1, 0))}
              aria-label={`Go to ${clock(at_s)}: ${words}`}
              sx={{ py: 0, px: 0.7, fontSize: "0.72rem", flex: "none" }}
            >
              {clock(at_s, true)}
            </Button>
          )}
        </Box>
      ))}
    </Box>
  );
}
