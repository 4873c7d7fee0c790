/** The energy of a set through the night, track by track, its tempo, and the arc that is wanted, which is drawn. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useRef, useState } from "react";
import type { ArcPoint, DjSet, Entry } from "./use-sets";

const [WIDTH, HEIGHT, MARK] = [1000, 120, 6];
/** A point that is let go this far above or below the picture is taken out. */
const OUTSIDE = 0.35;

interface Props {
  set: DjSet;
  chosen: number;
  onChoose: (place: number) => void;
  onArc: (points: ArcPoint[]) => void;
}

export function ArcPicture({ set, chosen, onChoose, onArc }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [drawn, setDrawn] = useState<ArcPoint[] | null>(null);
  const points = drawn ?? set.arc;
  const whole = Math.max(set.lasts_s, set.slot_s ?? 0, 1);
  const at = (event: { clientX: number; clientY: number }): ArcPoint => {
    const rect = box.current?.getBoundingClientRect() ?? new DOMRect(0, 0, 1, 1);
    const { left, top, width, height } = rect;
    return { share: (event.clientX - left) / width, energy: 100 * (1 - (event.clientY - top) / height) };
  };
  const drag = (place: number) => (down: React.PointerEvent<SVGElement>) => {
    down.preventDefault();
    down.stopPropagation();
    const layer = down.currentTarget;
    layer.setPointerCapture(down.pointerId);
    layer.onpointermove = (event) => setDrawn(moved(set.arc, place, at(event)));
    layer.onpointerup = (event) => {
      layer.onpointermove = layer.onpointerup = null;
      onArc(moved(set.arc, place, at(event)));
      setDrawn(null);
    };
  };
  return (
    <Box sx={{ px: 2.2, pb: 0.4 }}>
      <Box ref={box} sx={{ position: "relative" }}>
        <Box
          component="svg"
          role="img"
          aria-label="Energy through the set, and the arc you want. A double click sets a point of the arc; drag it; drag it out to take it away."
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          preserveAspectRatio="none"
          sx={{ display: "block", width: "100%", height: 120 }}
          onDoubleClick={(event) => onArc(inOrder([...set.arc, inside(at(event))]))}
        >
          <Bars set={set} whole={whole} chosen={chosen} onChoose={onChoose} />
          <Tempo set={set} whole={whole} />
          <Arc points={points} />
        </Box>
        {points.map(({ share, energy }, place) => (
          <Handle key={place} share={share} energy={energy} onDown={drag(place)} />
        ))}
      </Box>
      <Times set={set} whole={whole} />
    </Box>
  );
}

const within = (value: number, most: number) => Math.min(most, Math.max(0, value));
const inside = ({ share, energy }: ArcPoint) => ({ share: within(share, 1), energy: within(energy, 100) });
const inOrder = (points: readonly ArcPoint[]) => points.toSorted((a, b) => a.share - b.share);

/** The points with one of them elsewhere; without it where that lies outside. */
function moved(points: readonly ArcPoint[], place: number, to: ArcPoint): ArcPoint[] {
  const rest = points.filter((_, other) => other !== place);
  const away = to.energy > 100 * (1 + OUTSIDE) || to.energy < -100 * OUTSIDE;
  return away ? rest : inOrder([...rest, inside(to)]);
}

interface BarsProps {
  set: DjSet;
  whole: number;
  chosen: number;
  onChoose: (place: number) => void;
}

function Bars({ set, whole, chosen, onChoose }: BarsProps) {
  const { inks } = useTheme();
  const endOf = (place: number) => set.order[place + 1]?.begins_s ?? set.lasts_s;
  return (
    <>
      {set.order.map((entry, place) => {
        const left = (WIDTH * entry.begins_s) / whole;
        const wide = Math.max(1, (WIDTH * (endOf(place) - entry.begins_s)) / whole - 1.5);
        const high = ((entry.energy ?? 0) * (HEIGHT - MARK)) / 100;
        return (
          <g key={entry.id} onClick={() => onChoose(place)} style={{ cursor: "pointer" }}>
            <title>{`${entry.at} ${entry.title}, energy ${entry.energy ?? "not known"}`}</title>
            <rect x={left} y={0} width={wide} height={HEIGHT} fill="transparent" />
            <rect
              x={left}
              y={HEIGHT - MARK - high}
              width={wide}
              height={high}
              fill={place === chosen ? inks.chosen : inks.body}
            />
            {isWarned(set, entry) && (
              <rect x={left} y={HEIGHT - 3} width={wide} height={3} fill={inks.doubt} data-warned />
            )}
          </g>
        );
      })}
    </>
  );
}

export const isWarned = (set: DjSet, entry: Entry): boolean =>
  entry.cautions.length > 0 ||
  set.joints.some(({ in_id, cautions }) => in_id === entry.id && cautions.length > 0);

/** The tempo as a line, from the slowest track of the set to the fastest. */
function Tempo({ set, whole }: { set: DjSet; whole: number }) {
  const { inks } = useTheme();
  const tempi = set.order.flatMap(({ bpm }) => bpm ?? []);
  if (tempi.length < 2) return null;
  const [low, high] = [Math.min(...tempi), Math.max(...tempi)];
  const line = set.order
    .flatMap(({ bpm, begins_s, duration_s }) =>
      bpm === null
        ? []
        : [
            `${(WIDTH * (begins_s + duration_s / 2)) / whole},${HEIGHT - MARK - (HEIGHT - 2 * MARK) * ((bpm - low) / (high - low || 1))}`,
          ],
    )
    .join(" ");
  return (
    <polyline
      points={line}
      fill="none"
      stroke={inks.sure}
      strokeWidth={1.4}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    >
      <title>{`Tempo, ${low.toFixed(1)} to ${high.toFixed(1)}`}</title>
    </polyline>
  );
}

function Arc({ points }: { points: readonly ArcPoint[] }) {
  const { inks } = useTheme();
  const first = points[0];
  const last = points.at(-1);
  if (!first || !last) return null;
  const line = [{ ...first, share: 0 }, ...points, { ...last, share: 1 }]
    .map(({ share, energy }) => `${share * WIDTH},${(HEIGHT - MARK) * (1 - energy / 100)}`)
    .join(" ");
  return (
    <polyline
      points={line}
      fill="none"
      stroke={inks.chosen}
      strokeWidth={1.6}
      strokeDasharray="5 4"
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  );
}

interface HandleProps {
  share: number;
  energy: number;
  onDown: (event: React.PointerEvent<SVGElement>) => void;
}

function Handle({ share, energy, onDown }: HandleProps) {
  const { inks } = useTheme();
  return (
    <svg
      width={14}
      height={14}
      onPointerDown={onDown}
      data-testid="arc point"
      style={{
        ...{ position: "absolute", cursor: "grab", touchAction: "none", overflow: "visible" },
        ...{ left: `calc(${100 * share}% - 7px)` },
        top: `calc(${((HEIGHT - MARK) / HEIGHT) * (100 - energy)}% - 7px)`,
      }}
    >
      <title>The arc you want: drag it; drag it out to take it away</title>
      <circle cx={7} cy={7} r={4.5} fill={inks.paper} stroke={inks.chosen} strokeWidth={1.8} />
    </svg>
  );
}

/** The clock below: by half hours of the slot, or from the start on. */
function Times({ set, whole }: { set: DjSet; whole: number }) {
  const step = whole > 6 * 3600 ? 3600 : whole > 1.2 * 3600 ? 1800 : 600;
  const [hours, minutes] = (set.begins || "0:00").split(":").map(Number);
  const begins = ((hours ?? 0) * 60 + (minutes ?? 0)) * 60;
  const count = Math.floor(whole / step) + 1;
  return (
    <Box
      sx={{
        position: "relative",
        height: "1.2rem",
        fontFamily: "'IBM Plex Mono', monospace",
        fontSize: "0.76rem",
      }}
    >
      {Array.from({ length: count }, (_, place) => {
        const left = (100 * place * step) / whole;
        const shift = left > 97 ? "-100%" : place ? "-50%" : "0";
        const total = Math.round((begins + place * step) / 60);
        return (
          <Box
            component="span"
            key={place}
            sx={{
              position: "absolute",
              left: `${left}%`,
              transform: `translateX(${shift})`,
              color: "text.secondary",
            }}
          >
            {`${String(Math.floor(total / 60) % 24).padStart(set.begins ? 2 : 1, "0")}:${String(total % 60).padStart(2, "0")}`}
          </Box>
        );
      })}
    </Box>
  );
}
