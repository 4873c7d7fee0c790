/** The key by hand: gone through by ear, with its chord or root held under the track. */
import { Box, Button, ToggleButton, ToggleButtonGroup } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { useEditValues } from "../../api/changes";
import { chordHz, drone, type Voice } from "../../audio/drone";
import { engine } from "../../audio/engine";
import { FormDialog } from "../../components/form-dialog";
import { useKeyName } from "../../components/key-name";
import { FIFTHS_MAJOR, FIFTHS_MINOR, place } from "../../components/key-ring";
import { useRemembered } from "../../settings";
import { KeyPicture } from "../shelf/key-picture";
import type { Bench } from "./bench";

const NO_COUNTS = {};
type Hearing = Voice | "nothing";

export function KeyDialog({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const { track, heard } = bench.track.data;
  const written = useKeyName();
  const [key, setKey] = useState(track.key ?? "A minor");
  const [hearing, setHearing] = useRemembered<Hearing>("key hearing", "chord");
  const edit = useEditValues();
  useEffect(() => {
    if (hearing !== "nothing") drone.play(chordHz(key, hearing, heard.tuning_cents ?? 0));
    return () => drone.stop();
  }, [key, hearing, heard.tuning_cents]);
  const send = (value: string | null) =>
    edit.mutate({ ids: [track.id], values: { key: value } }, { onSuccess: onClose });
  return (
    <FormDialog
      title="Key by hand"
      action={`Set ${written(key)}`}
      disabled={edit.isPending || (key === track.key && track.key_source === "by hand")}
      apart={
        track.key_source === "by hand" && (
          <Button onClick={() => send(null)} sx={{ mr: "auto" }}>
            Take my key back
          </Button>
        )
      }
      onSubmit={() => send(key)}
      onClose={onClose}
    >
      <Ring chosen={key} onChoose={setKey} />
      <Box sx={{ textAlign: "center", fontSize: "1.3rem", fontWeight: 650, my: 0.5 }} aria-live="polite">
        {written(key)}
      </Box>
      <Box sx={{ display: "flex", justifyContent: "center", gap: 1, alignItems: "center", flexWrap: "wrap" }}>
        <ToggleButtonGroup
          exclusive
          size="small"
          value={hearing}
          onChange={(_, next: Hearing | null) => next && setHearing(next)}
          aria-label="Under the track"
        >
          <ToggleButton value="chord">Its chord</ToggleButton>
          <ToggleButton value="root">Its root</ToggleButton>
          <ToggleButton value="nothing">Nothing</ToggleButton>
        </ToggleButtonGroup>
        <Button onClick={() => engine.toggle()}>
          {bench.transport.state.playing ? "Pause the track" : "Play the track"}
        </Button>
      </Box>
      <Box sx={{ fontSize: "0.82rem", color: "text.secondary", mt: 1 }}>
        ← → go along the fifths, ↑ ↓ from major to minor, Space plays and pauses, ↵ sets. What is set by hand
        wins over analysis and files.
      </Box>
    </FormDialog>
  );
}

/** The ring as a choice by arrows. */
function Ring({ chosen, onChoose }: { chosen: string; onChoose: (key: string) => void }) {
  const ring = useRef<HTMLElement>(null);
  useEffect(() => ring.current?.focus({ preventScroll: true }), []);
  const { index, minor } = place(chosen);
  const keyAt = (at: number, isMinor: boolean) =>
    `${(isMinor ? FIFTHS_MINOR : FIFTHS_MAJOR)[(at + 12) % 12] ?? "C"} ${isMinor ? "minor" : "major"}`;
  const press = (event: React.KeyboardEvent<HTMLElement>) => {
    const ways: Record<string, () => void> = {
      ArrowLeft: () => onChoose(keyAt(index - 1, minor)),
      ArrowRight: () => onChoose(keyAt(index + 1, minor)),
      ArrowUp: () => onChoose(keyAt(index, false)),
      ArrowDown: () => onChoose(keyAt(index, true)),
      " ": () => engine.toggle(),
      Enter: () => event.currentTarget.closest("form")?.requestSubmit(),
    };
    const act = ways[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  };
  return (
    <Box
      ref={ring}
      role="group"
      aria-label="Key, by arrows"
      tabIndex={0}
      onKeyDown={press}
      sx={{ height: 210, "&:focus-visible": { outlineOffset: -2 } }}
    >
      <KeyPicture counts={NO_COUNTS} chosen={chosen} onChange={(next) => next && onChoose(next)} />
    </Box>
  );
}
