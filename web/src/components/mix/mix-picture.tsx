/** The picture of a mix, with what is heard now; a click goes there. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { waveformQuery } from "../../api/queries";
import { AFTER_S, BEFORE_S, type MixPlayer } from "../../audio/mix-player";
import { trackTime, type Mix } from "../../audio/mix-way";
import { drawMix } from "../../drawing/mix";
import { useRedraw } from "../../pages/workbench/use-redraw";
import { FIGURES, NAMES } from "../../theme";
import { clock } from "../format";
import { Playhead } from "../playhead";
import type { Pair } from "./use-mix";

/** So much of the width is left to the words of a mark. */
const MARK_SHARE = 0.14;

interface Props {
  pair: Pair;
  mix: Mix;
  player: MixPlayer;
}

export function MixPicture({ pair, mix, player }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { inks } = useTheme();
  const out = useQuery(waveformQuery(pair.out.id)).data ?? null;
  const into = useQuery(waveformQuery(pair.into.id)).data ?? null;
  const [from, to] = [-BEFORE_S, mix.over_s + AFTER_S];
  useRedraw(canvas, (on) => drawMix(on, { mix, waveforms: { out, into }, from, to }, inks));
  const seek = (event: React.MouseEvent) => {
    const edges = canvas.current?.getBoundingClientRect();
    if (edges) void player.play(from + ((event.clientX - edges.left) / edges.width) * (to - from));
  };
  const place = (at: number) => `${(100 * (at - from)) / (to - from)}%`;
  const main = mix.into.main_s === null ? null : mixTimeOf(mix, mix.into.main_s);
  // Words would lie on others, or be cut off.
  const hasRoom = main !== null && main > MARK_SHARE * (to - from) && main < to - MARK_SHARE * (to - from);
  return (
    <Box sx={{ flex: 1, minWidth: 0, display: "flex", flexDirection: "column" }}>
      <Lane
        title={pair.out.title}
        marks={[{ at: place(0), words: `out ${clock(mix.settings.out_s ?? 0)}` }]}
      />
      {/* By key it is played from its start. */}
      {/* eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-static-element-interactions */}
      <div onClick={seek} style={{ position: "relative", flex: 1, minHeight: 90, cursor: "pointer" }}>
        <canvas
          ref={canvas}
          aria-label="The joint"
          data-knots={mix.knots.length}
          style={{ width: "100%", height: "100%", display: "block", position: "absolute" }}
        />
        <Playhead player={player} from={from} to={to} />
      </div>
      <Lane
        title={pair.into.title}
        marks={[
          { at: place(0), words: `in ${clock(mix.settings.in_s ?? 0)}` },
          ...(hasRoom ? [{ at: place(main), words: `main ${clock(mix.into.main_s ?? 0)}` }] : []),
        ]}
      />
    </Box>
  );
}

/** When in the mix a time of the incoming is heard. */
function mixTimeOf(mix: Mix, time_s: number): number {
  let [low, high] = [mix.knots[0]?.[0] ?? 0, mix.knots.at(-1)?.[0] ?? 0];
  for (let step = 0; step < 40; step++) {
    const middle = (low + high) / 2;
    if (trackTime(mix, "into", middle) < time_s) low = middle;
    else high = middle;
  }
  return high;
}

/** A line of words above or under the lanes: what a track is called, and what is where. */
function Lane({ title, marks }: { title: string; marks: { at: string; words: string }[] }) {
  return (
    <Box sx={{ position: "relative", height: "1.5em", fontSize: "0.8rem", overflow: "hidden" }}>
      <Box
        component="span"
        title={title}
        sx={{
          ...{ position: "absolute", left: 0, width: `calc(${marks[0]?.at ?? "100%"} - 0.6rem)` },
          ...{ fontFamily: NAMES, fontWeight: 600 },
          ...{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" },
        }}
      >
        {title}
      </Box>
      {marks.map(({ at, words }) => (
        <Box
          component="span"
          key={words}
          sx={{ position: "absolute", left: at, fontFamily: FIGURES, bgcolor: "background.paper", px: 0.4 }}
        >
          {words}
        </Box>
      ))}
    </Box>
  );
}
