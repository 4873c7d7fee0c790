/** One track that goes with another: why, and what can be done with it. */
import { useDraggable } from "@dnd-kit/core";
import { Box, Button } from "@mui/material";
import type { Schema, Track } from "../api/client";
import { FIGURES } from "../theme";
import { useKeyName } from "./key-name";
import { KeyHint } from "./key-hint";

type Fit = Schema["FitOut"];

/** What can be done with a line, by key and by button. */
export interface LineActions {
  open: (track: Track) => void;
  play: (track: Track) => void;
  plays: (track: Track) => boolean;
  put: (track: Track) => void;
  intoLast: (track: Track) => void;
  after: ((track: Track) => void) | undefined;
  goOn: (track: Track) => void;
  back: () => void;
  leave: () => void;
}

export const lineName = (id: number): string => `fit-${id}`;

interface Props {
  fit: Fit;
  held: boolean;
  chosen: boolean;
  onChoose: () => void;
  actions: LineActions;
}

export function FitLine({ fit, held, chosen, onChoose, actions }: Props) {
  const { track } = fit;
  const { setNodeRef, listeners, isDragging } = useDraggable({
    id: lineName(track.id),
    data: { fit: track.id },
  });
  const plays = actions.plays(track);
  return (
    // Keys are the list's.

    <Box
      component="li"
      id={lineName(track.id)}
      role="option"
      aria-selected={chosen}
      ref={setNodeRef}
      {...listeners}
      onClick={onChoose}
      onDoubleClick={() => actions.open(track)}
      sx={(theme) => ({
        ...{ py: 0.7, px: 0.6, borderBottom: 1, borderColor: "divider", cursor: "default" },
        bgcolor: chosen ? theme.inks.chosenWash : undefined,
        opacity: isDragging ? 0.4 : 1,
        touchAction: "none",
      })}
    >
      <Box sx={{ display: "flex", gap: 1 }}>
        <Box
          component="button"
          type="button"
          tabIndex={-1}
          aria-label={plays ? `Pause ${track.title}` : `Play ${track.title}`}
          onClick={() => actions.play(track)}
          sx={{
            ...{ border: 0, p: 0, background: "none", cursor: "pointer" },
            color: plays ? "error.main" : "text.primary",
          }}
        >
          {plays ? "❚❚" : "▶"}
        </Box>
        <Told fit={fit} held={held} />
      </Box>
      {chosen && <Ways track={track} actions={actions} />}
    </Box>
  );
}

function Told({ fit, held }: { fit: Fit; held: boolean }) {
  const { track } = fit;
  const written = useKeyName();
  return (
    <>
      <Box sx={{ minWidth: 0, flex: 1 }}>
        <Box sx={{ fontWeight: 650, fontSize: "0.88rem" }}>{track.title}</Box>
        <Box sx={{ color: "text.secondary", fontSize: "0.78rem" }}>{track.artist}</Box>
        <Box sx={{ fontSize: "0.76rem" }}>{fit.reasons.join(", ")}</Box>
        {!held && Math.abs(fit.cents) >= 1 && fit.heard_key && (
          <Box sx={{ fontSize: "0.76rem", color: "warning.main" }}>
            {fit.cents > 0 ? "+" : "−"}
            {Math.abs(fit.cents).toFixed(0)} cents: sounds in {written(fit.heard_key)}
          </Box>
        )}
      </Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", textAlign: "right", flex: "none" }}>
        {track.bpm?.toFixed(1)}
        <br />
        {track.key && written(track.key)}
      </Box>
    </>
  );
}

/** What can be done with the chosen line; the same by the keys that stand beside. */
function Ways({ track, actions }: { track: Track; actions: LineActions }) {
  const { after } = actions;
  const ways: [string, string, () => void][] = [
    ["Put into…", "P", () => actions.put(track)],
    ["Last crate", "⇧ C", () => actions.intoLast(track)],
    ...(after ? [["Put after", "A", () => after(track)] as [string, string, () => void]] : []),
    ["Go on from it", "→", () => actions.goOn(track)],
    ["Workbench", "↵", () => actions.open(track)],
  ];
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.4, mt: 0.5 }}>
      {ways.map(([words, key, act]) => (
        <Button key={words} size="small" tabIndex={-1} onClick={act} sx={{ px: 0.7, minWidth: 0 }}>
          {words} <KeyHint>{key}</KeyHint>
        </Button>
      ))}
    </Box>
  );
}
