/** The key sheet: shows, prints and changes all keys. */
import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from "@mui/material";
import { useEffect, useEffectEvent, useState } from "react";
import { FIGURES } from "../theme";
import { changeKey, clashOf, keyOf, pressed, resetKeys, shown, useKeyMap } from "./key-map";
import { KEYS, type KeyEntry, type RoomName } from "./keys";
import "./key-sheet.css";

const TITLES: Record<RoomName, string> = {
  everywhere: "Everywhere",
  lists: "Shelf and Crates",
  twins: "Twins",
  sets: "Sets",
  mix: "Rehearsing a joint",
  exchange: "Exchange",
  logbook: "Logbook",
  rules: "Crates that fill themselves",
  listen: "Workbench: listen",
  grid: "Workbench: grid",
  cues: "Workbench: cues and loops",
  track: "Workbench: track and routes",
};

/** All keys on one page, made to be printed; a click on one, then another key, changes it. */
export function KeySheet({ onClose }: { onClose: () => void }) {
  const own = useKeyMap();
  const { asked, refusal, ask } = useAskedKey();
  return (
    <Dialog
      open
      onClose={onClose}
      maxWidth={false}
      fullWidth
      slotProps={{ paper: { id: "key-sheet", sx: { maxWidth: 1180 } } }}
    >
      <DialogTitle sx={{ typography: "h1", display: "flex", alignItems: "baseline", gap: 2, pb: 0.5 }}>
        Keys
        <Box
          component="span"
          role="status"
          sx={{ typography: "body2", color: refusal ? "error.main" : "text.secondary" }}
        >
          {refusal ||
            (asked ? `Press the new key for “${asked.says}”, or Esc.` : "Click a key to change it.")}
        </Box>
      </DialogTitle>
      <DialogContent className="key-columns">
        {Object.entries(KEYS).map(([room, keys]) => (
          <section key={room}>
            <Typography variant="h2">{TITLES[room as RoomName]}</Typography>
            {told(keys).map((entry) => (
              <Row
                key={entry.id}
                entry={entry}
                asked={entry === asked}
                changed={entry.id in own}
                onAsk={() => ask(entry)}
              />
            ))}
          </section>
        ))}
      </DialogContent>
      <DialogActions>
        {Object.keys(own).length > 0 && <Button onClick={resetKeys}>All as they were</Button>}
        <Button onClick={() => window.print()}>Print</Button>
        <Button variant="contained" autoFocus onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function told(keys: Record<string, KeyEntry>): KeyEntry[] {
  return Object.values(keys).filter((entry) => !entry.silent);
}

/** The key that is being changed: the next one pressed is its new one, unless that means something already. */
function useAskedKey() {
  const [asked, setAsked] = useState<KeyEntry | null>(null);
  const [refusal, setRefusal] = useState("");
  useNextKey(asked, (key) => {
    if (!asked) return;
    const clash = key === "escape" ? null : clashOf(asked, key);
    if (clash) {
      const sign = shown({ ...clash, id: "" });
      setRefusal(`${sign} already means “${clash.says}”. Choose another key, or change that one first.`);
      return;
    }
    if (key !== "escape") changeKey(asked, key);
    setAsked(null);
    setRefusal("");
  });
  const ask = (entry: KeyEntry) => {
    setRefusal("");
    setAsked(entry);
  };
  return { asked, refusal, ask };
}

function Row({
  entry,
  asked,
  changed,
  onAsk,
}: {
  entry: KeyEntry;
  asked: boolean;
  changed: boolean;
  onAsk: () => void;
}) {
  return (
    <div className="key-row">
      {entry.fixed ? (
        <kbd>{shown(entry)}</kbd>
      ) : (
        <Box
          component="button"
          type="button"
          aria-label={`Change the key for ${entry.says}, now ${keyOf(entry)}`}
          className={asked ? "asked" : changed ? "changed" : undefined}
          onClick={onAsk}
          sx={{ fontFamily: FIGURES }}
        >
          {asked ? "…" : shown(entry)}
        </Box>
      )}
      <span>{entry.says}</span>
    </div>
  );
}

/** The next key that is pressed goes to the one who asked, and to nobody else. */
function useNextKey(asked: KeyEntry | null, take: (key: string) => void): void {
  const takeNow = useEffectEvent(take);
  useEffect(() => {
    if (!asked) return;
    const listen = (event: KeyboardEvent) => {
      const key = pressed(event);
      event.preventDefault();
      event.stopPropagation();
      if (key) takeNow(key);
    };
    window.addEventListener("keydown", listen, true);
    return () => window.removeEventListener("keydown", listen, true);
  }, [asked]);
}
