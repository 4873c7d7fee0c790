/** Tempo and energy through a night, and its keys; a click goes to what was played there. */
import { Box, Typography } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { Keys } from "./keys-picture";
import type { NightData } from "./night-view";
import type { Choosing } from "./use-choosing";

const [WIDTH, HEIGHT, TOP] = [320, 130, 8];

export function NightCurve({ night, choosing }: { night: NightData; choosing: Choosing }) {
  const { gig, plays } = night;
  const keys: Record<string, number> = {};
  for (const play of plays) if (play.key) keys[play.key] = (keys[play.key] ?? 0) + 1;
  const known = plays.some((play) => play.bpm ?? play.energy);
  return (
    <Box
      component="aside"
      aria-label="The night as a curve"
      sx={{ overflow: "auto", pt: 1.5, pb: 2, fontSize: "0.85rem" }}
    >
      {known ? (
        <>
          <Typography variant="h2">Energy and tempo</Typography>
          <Curve night={night} choosing={choosing} />
          <Typography variant="h2" sx={{ mt: 2, mb: 0.5 }}>
            Keys
          </Typography>
          <Keys counts={keys} what="played" />
        </>
      ) : (
        <Box sx={{ color: "text.secondary" }}>
          Energy, tempo and keys of a night are drawn once its tracks are on the Shelf and analysed.
        </Box>
      )}
      {night.pairs.length > 0 && (
        <Box sx={{ mt: 2 }}>
          <Typography variant="h2">Played in this order before</Typography>
          {night.pairs.map((place) => (
            <Box key={place} sx={{ py: 0.4 }}>
              {plays[place - 1]?.title}, then {plays[place]?.title}
            </Box>
          ))}
        </Box>
      )}
      {gig.note && <Box sx={{ mt: 2, whiteSpace: "pre-wrap" }}>{gig.note}</Box>}
      {gig.came_from && <Box sx={{ mt: 2, color: "text.secondary" }}>Came from {gig.came_from}.</Box>}
    </Box>
  );
}

function Curve({ night, choosing }: { night: NightData; choosing: Choosing }) {
  const { inks } = useTheme();
  const { plays } = night;
  const step = WIDTH / Math.max(1, plays.length);
  const tempi = plays.flatMap(({ bpm }) => bpm ?? []);
  const [low, high] = [Math.min(...tempi) - 2, Math.max(...tempi) + 2];
  const heightOf = (bpm: number) => TOP + (HEIGHT - TOP) * (1 - (bpm - low) / (high - low));
  const points = plays.flatMap((play, i) => (play.bpm ? [`${(i + 0.5) * step},${heightOf(play.bpm)}`] : []));
  return (
    <>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        role="group"
        aria-label="Energy as bars, tempo as a line"
      >
        {plays.map((play, place) => {
          const tall = ((play.energy ?? 0) / 100) * (HEIGHT - TOP);
          const on = choosing.chosen.includes(play.id);
          const says = `${play.at ?? ""} ${play.title}: ${play.bpm?.toFixed(1) ?? "no tempo"}, energy ${play.energy ?? "not known"}`;
          return (
            <g key={play.id} onClick={(event) => choosing.click(place, event)} style={{ cursor: "pointer" }}>
              <title>{says}</title>
              <rect x={place * step} y={0} width={step} height={HEIGHT} fill="transparent" />
              <rect
                x={place * step + 1}
                y={HEIGHT - tall}
                width={Math.max(1, step - 2)}
                height={tall}
                fill={on ? inks.chosen : play.went === "well" ? inks.sure : inks.peak}
              />
            </g>
          );
        })}
        <polyline
          points={points.join(" ")}
          fill="none"
          stroke={inks.now}
          strokeWidth={2}
          pointerEvents="none"
        />
      </svg>
      <Box sx={{ color: "text.secondary", fontSize: "0.75rem" }}>
        Bars: energy, blue where it went well. Line: tempo
        {tempi.length > 0 && `, ${Math.min(...tempi).toFixed(0)} to ${Math.max(...tempi).toFixed(0)}`}.
      </Box>
    </>
  );
}
