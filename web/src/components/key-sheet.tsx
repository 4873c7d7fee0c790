import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from "@mui/material";
import { KEYS, shown } from "./keys";

const TITLES: Record<keyof typeof KEYS, string> = {
  everywhere: "Everywhere",
  lists: "Shelf and Crates",
  listen: "Workbench: listen",
  grid: "Workbench: grid",
  cues: "Workbench: cues",
};

/** All keys on one page, made to be printed. */
export function KeySheet({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth slotProps={{ paper: { id: "key-sheet" } }}>
      <style>{"@media print { body * { visibility: hidden } #key-sheet, #key-sheet * { visibility: visible } #key-sheet { position: fixed; inset: 0; max-width: none; max-height: none; border: 0; margin: 0 } #key-sheet button { display: none } }"}</style>
      <DialogTitle sx={{ typography: "h1" }}>Keys</DialogTitle>
      <DialogContent sx={{ columnCount: 3, columnGap: 4 }}>
        {Object.entries(KEYS).map(([room, keys]) => (
          <Box key={room} sx={{ breakInside: "avoid", mb: 2.5 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>{TITLES[room as keyof typeof KEYS]}</Typography>
            {Object.values(keys).map((entry) => (
              <Box key={entry.says} sx={{ display: "flex", gap: 1.5, py: 0.3, borderBottom: 1, borderColor: "divider", fontSize: "0.82rem" }}>
                <Box component="kbd" sx={{ fontFamily: "'IBM Plex Mono', monospace", minWidth: 62, fontWeight: 500 }}>{shown(entry)}</Box>
                <span>{entry.says}</span>
              </Box>
            ))}
          </Box>
        ))}
      </DialogContent>
      <DialogActions>
        <Button onClick={() => window.print()}>Print</Button>
        <Button variant="contained" autoFocus onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
