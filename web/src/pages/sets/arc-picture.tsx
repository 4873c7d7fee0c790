/** The energy of a set through the night, track by track, its tempo, and the arc that is wanted, which is drawn. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useRef, useState } from "react";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { ArcPoints, useArc, withPoint, type KeepArc } from "./arc-points";
import { HEIGHT, MARK, WIDTH } from "./arc-size";
import type { ArcPoint, DjSet, Entry } from "./use-sets";

interface Props {
  set: DjSet;
  chosen: number;
  onChoose: (place: number) => void;
  onArc: KeepArc;
}

export function ArcPicture({ set, chosen, onChoose, onArc }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const edit = useArc(set.arc, onArc);
  const whole = Math.max(set.lasts_s, set.slot_s ?? 0, 1);
  const at = (event: { clientX: number; clientY: number }): ArcPoint => {
    const rect = box.current?.getBoundingClientRect() ?? new DOMRect(0, 0, 1, 1);
    const { left, top, width, height } = rect;
    return { share: (event.clientX - left) / width, energy: 100 * (1 - (event.clientY - top) / height) };
  };
  const [focused, setFocused] = useState<number | null>(null);
  useKeys(KEYS.sets.arc, () => {
    const over = pointOver(set, edit.points, chosen, whole);
    if (!over) return;
    if (over.points.length > edit.points.length) edit.keep([...over.points]);
    setFocused(over.place);
  });
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
          onDoubleClick={(event) => edit.keep(withPoint(edit.points, at(event)))}
        >
          <Bars set={set} whole={whole} chosen={chosen} onChoose={onChoose} />
          <Tempo set={set} whole={whole} />
          <Arc points={edit.points} />
        </Box>
        <ArcPoints
          {...{ edit, at, focused }}
          clock={(share) => clockAt(set, share * whole)}
          onLeave={() => setFocused(null)}
        />
      </Box>
      <Times set={set} whole={whole} />
    </Box>
  );
}

/** The point of the arc over a track, and all with it: as high as the track, where there was none. */
function pointOver(
  set: DjSet,
  arc: readonly ArcPoint[],
  chosen: number,
  whole: number,
): { points: readonly ArcPoint[]; place: number } | null {
  const entry = set.order[chosen];
  if (!entry) return null;
  const [from, to] = [entry.begins_s / whole, (set.order[chosen + 1]?.begins_s ?? set.lasts_s) / whole];
  const isThere = ({ share }: ArcPoint) => share >= from && share <= to;
  const there = arc.some(isThere);
  const points = there ? arc : withPoint(arc, { share: (from + to) / 2, energy: entry.energy ?? 50 });
  return { points, place: points.findIndex(isThere) };
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

/** The clock so long after the start; from the start on where that is not known. */
function clockAt({ begins }: DjSet, after_s: number): string {
  const [hours, minutes] = (begins || "0:00").split(":").map(Number);
  const total = (hours ?? 0) * 60 + (minutes ?? 0) + Math.round(after_s / 60);
  const hour = String(Math.floor(total / 60) % 24).padStart(begins ? 2 : 1, "0");
  return `${hour}:${String(total % 60).padStart(2, "0")}`;
}

/** The clock below: by half hours of the slot, or from the start on. */
function Times({ set, whole }: { set: DjSet; whole: number }) {
  const step = whole > 6 * 3600 ? 3600 : whole > 1.2 * 3600 ? 1800 : 600;
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
            {clockAt(set, place * step)}
          </Box>
        );
      })}
    </Box>
  );
}
