/** The copies of a recording laid over each other by their sound, with what is heard now. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useRef, useSyncExternalStore } from "react";
import type { Cue } from "../../api/client";
import { coloursQuery, waveformQuery } from "../../api/queries";
import { spanOf, type Copy, type CopyPlayer } from "../../audio/copies";
import { drawCopy } from "../../drawing/copies";
import { FIGURES } from "../../theme";
import { Playhead } from "../../components/playhead";
import { useRedraw } from "../workbench/use-redraw";

interface Props {
  copies: readonly Copy[];
  /** The cues of each. */
  cues: readonly (readonly Cue[])[];
  player: CopyPlayer;
}

const ROW = 46;

export function CopiesPicture({ copies, cues, player }: Props) {
  const { heard } = useSyncExternalStore(player.subscribe, player.snapshot);
  const spans = copies.map(spanOf);
  const from = Math.min(...spans.map(([begins]) => begins));
  const to = Math.max(...spans.map(([, ends]) => ends));
  const box = useRef<HTMLDivElement>(null);
  const seek = (event: React.MouseEvent) => {
    const edges = box.current?.getBoundingClientRect();
    if (edges) player.seek(from + ((event.clientX - edges.left) / edges.width) * (to - from));
  };
  return (
    // By key one goes along with ← and →.
    // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-static-element-interactions
    <div ref={box} onClick={seek} style={{ position: "relative", cursor: "pointer" }} data-testid="copies">
      {copies.map((copy, place) => (
        <CopyRow
          key={copy.track}
          copy={copy}
          cues={cues[place] ?? []}
          number={place + 1}
          isHeard={place === heard}
          from={from}
          to={to}
          onHear={() => player.hear(place)}
        />
      ))}
      <Playhead player={player} from={from} to={to} />
    </div>
  );
}

interface RowProps {
  copy: Copy;
  cues: readonly Cue[];
  number: number;
  isHeard: boolean;
  from: number;
  to: number;
  onHear: () => void;
}

function CopyRow({ copy, cues, number, isHeard, from, to, onHear }: RowProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { inks } = useTheme();
  const waveform = useQuery(waveformQuery(copy.track)).data ?? null;
  const colours = useQuery(coloursQuery).data ?? [];
  const palette = Object.fromEntries(colours.map((each) => [each.colour, each]));
  useRedraw(canvas, (on) => drawCopy(on, { waveform, ...copy, cues, palette, from, to }, inks));
  return (
    <Box sx={{ position: "relative", height: ROW, opacity: isHeard ? 1 : 0.62 }}>
      <canvas ref={canvas} style={{ width: "100%", height: "100%", display: "block" }} />
      <Box
        component="button"
        type="button"
        tabIndex={-1}
        aria-label={`Hear copy ${number}`}
        aria-pressed={isHeard}
        onClick={(event: React.MouseEvent) => {
          event.stopPropagation();
          onHear();
        }}
        sx={({ inks: { now, onStrong, paper } }) => ({
          ...{
            position: "absolute",
            left: 0,
            top: 2,
            px: 0.6,
            border: 0,
            borderRadius: "3px",
            cursor: "pointer",
          },
          ...{ fontFamily: FIGURES, fontWeight: 700, fontSize: "0.8rem" },
          ...(isHeard ? { bgcolor: now, color: onStrong } : { bgcolor: paper, color: now }),
        })}
      >
        {number}
      </Box>
    </Box>
  );
}
