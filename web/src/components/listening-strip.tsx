/** What is heard from a list, how far it is, and the way to stop it. */
import { Box, Button } from "@mui/material";
import { useRef } from "react";
import { engine } from "../audio/engine";
import { usePlayhead } from "../audio/use-engine";
import { FIGURES } from "../theme";
import { clock } from "./format";
import { KeyHint } from "./key-hint";
import { shown } from "./key-map";
import { KEYS } from "./keys";
import { mainOf, type Listening } from "./use-listening";

export function ListeningStrip({ listening }: { listening: Listening }) {
  const { track, playing, waiting, problem, toggle } = listening;
  if (problem)
    return (
      <Box role="alert" sx={{ px: 2, py: 0.6, color: "error.main", fontSize: "0.82rem" }}>
        {problem}
      </Box>
    );
  if (!track || !(playing || waiting)) return null;
  return (
    <Box
      data-testid="listening"
      sx={(theme) => ({
        ...{ display: "flex", alignItems: "center", gap: 1.5, px: 2, py: 0.5 },
        ...{ bgcolor: theme.inks.bar, borderTop: 1, borderColor: "divider", fontSize: "0.84rem" },
      })}
    >
      <Button size="small" onClick={toggle}>
        Pause <KeyHint>{shown(KEYS.lists.play)}</KeyHint>
      </Button>
      <Box
        sx={{
          minWidth: 0,
          maxWidth: 360,
          overflow: "hidden",
          textOverflow: "ellipsis",
          whiteSpace: "nowrap",
        }}
      >
        <b>{track.title}</b> {waiting ? "The sound is on its way…" : track.artist}
      </Box>
      <Course key={track.id} duration={track.duration_s} main={mainOf(track)} />
      <Box sx={{ color: "text.secondary" }}>
        <KeyHint>{shown(KEYS.lists.back)}</KeyHint> <KeyHint>{shown(KEYS.lists.forth)}</KeyHint> 16 beats
      </Box>
    </Box>
  );
}

/** How far the track is; a click goes there. */
function Course({ duration, main }: { duration: number; main: number }) {
  const line = useRef<HTMLDivElement>(null);
  const time = useRef<HTMLSpanElement>(null);
  usePlayhead(
    (now) => {
      if (line.current) line.current.style.width = `${(100 * now) / duration}%`;
      if (time.current) time.current.textContent = clock(now);
    },
    [duration],
  );
  const go = (event: React.MouseEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    engine.seek(((event.clientX - box.left) / box.width) * duration);
  };
  return (
    <>
      {/* By key the track is gone along with comma and period. */}
      {/* eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-static-element-interactions */}
      <div onClick={go} style={{ flex: 1, height: 14, position: "relative", cursor: "pointer" }}>
        <Box sx={{ position: "absolute", inset: "6px 0", bgcolor: "divider" }} />
        <Box ref={line} sx={{ position: "absolute", left: 0, top: 5, height: 4, bgcolor: "error.main" }} />
        <Box
          title="The main part"
          sx={{ position: "absolute", top: 2, height: 10, width: 2, bgcolor: "text.primary" }}
          style={{ left: `${(100 * main) / duration}%` }}
        />
      </div>
      <Box component="span" ref={time} sx={{ fontFamily: FIGURES, minWidth: "3.2em" }} />
    </>
  );
}
