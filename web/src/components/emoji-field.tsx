/** Free marks of a track: any symbols, typed or chosen. */
import { Box, Button, Popover, TextField } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { lazy, Suspense, useState } from "react";
import { shownValue, type ValueProps } from "./edit-fields";

// Its table of symbols is large, and few need it at once.
const Picker = lazy(() => import("./emoji-picker"));

export function EmojiField(props: ValueProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const { palette } = useTheme();
  const value = shownValue(props);
  const state =
    props.edit === undefined ? "marks" : props.edit === null ? "marks, none by hand" : "marks, to be set";
  return (
    <Box sx={{ display: "flex", gap: 0.5 }}>
      <TextField
        size="small"
        fullWidth
        label={state}
        color="secondary"
        placeholder={props.now === null ? "several values" : ""}
        value={value}
        onChange={(event) => props.onSet(event.target.value)}
        slotProps={{ inputLabel: { shrink: true } }}
      />
      <Button size="small" onClick={(event) => setAnchor(event.currentTarget)} sx={{ minWidth: 62, px: 0 }}>
        Choose…
      </Button>
      <Popover open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {/* As large as it will be, so that it is placed within the window at once. */}
        <Box sx={{ width: 320, height: 340 }}>
          <Suspense fallback={<Box sx={{ p: 2 }}>Getting the symbols…</Box>}>
            <Picker dark={palette.mode === "dark"} onPick={(emoji) => props.onSet(value + emoji)} />
          </Suspense>
        </Box>
      </Popover>
    </Box>
  );
}
