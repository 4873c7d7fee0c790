/** How many tracks at each tempo; drag across it to choose a range, click to let go. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useRef, useState } from "react";

type Range = [number, number];

interface Props {
  counts: Record<string, number>;
  from: number | null;
  to: number | null;
  onChange: (from: number | null, to: number | null) => void;
}

const STEPS = [80, 100, 120, 140, 160, 180];
const USUAL: Range = [120, 126];

export function TempoPicture({ counts, from, to, onChange }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<Range | null>(null);
  const tempi = Object.keys(counts).map(Number);
  const low = Math.min(76, ...tempi) - 2;
  const high = Math.max(182, ...tempi) + 3;
  const chosen: Range | null = drag ? sorted(drag) : from !== null && to !== null ? [from, to] : null;
  const tempoAt = (event: React.PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    return box ? Math.round(low + ((event.clientX - box.left) / box.width) * (high - low)) : low;
  };
  const release = () => {
    if (!drag) return;
    if (drag[0] === drag[1]) onChange(null, null);
    else onChange(...sorted(drag));
    setDrag(null);
  };
  return (
    <Box sx={{ height: "100%", display: "flex", flexDirection: "column" }}>
      <svg
        ref={svg}
        viewBox={`${low} 0 ${high - low} 100`}
        preserveAspectRatio="none"
        width="100%"
        style={{ flex: 1, minHeight: 0, cursor: "crosshair", touchAction: "none" }}
        tabIndex={0}
        role="slider"
        aria-label="Tempo range"
        aria-valuenow={from ?? 0}
        aria-valuetext={from === null ? "all tempi" : `${from} to ${to} bpm`}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          setDrag([tempoAt(e), tempoAt(e)]);
        }}
        onPointerMove={(e) => drag && setDrag([drag[0], tempoAt(e)])}
        onPointerUp={release}
        onKeyDown={(e) => nudge(e, from === null || to === null ? null : [from, to], onChange)}
      >
        <Histogram counts={counts} low={low} high={high} chosen={chosen} />
      </svg>
      <Scale low={low} high={high} />
    </Box>
  );
}

function sorted([a, b]: Range): Range {
  return [Math.min(a, b), Math.max(a, b)];
}

/** The arrows move the range, with Shift only its end. */
function nudge(
  event: React.KeyboardEvent,
  range: Range | null,
  onChange: (from: number, to: number) => void,
) {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  if (by === undefined) return;
  event.preventDefault();
  event.stopPropagation();
  const [start, end] = !range ? USUAL : [range[0] + (event.shiftKey ? 0 : by), range[1] + by];
  onChange(start, Math.max(start, end));
}

interface HistogramProps {
  counts: Record<string, number>;
  low: number;
  high: number;
  chosen: Range | null;
}

function Histogram({ counts, low, high, chosen }: HistogramProps) {
  const { inks } = useTheme();
  const most = Math.max(1, ...Object.values(counts));
  return (
    <>
      <rect x={low} y={0} width={high - low} height={100} fill="transparent" />
      {chosen && (
        <rect
          x={chosen[0]}
          y={0}
          width={Math.max(chosen[1] - chosen[0] + 1, 0.3)}
          height={100}
          fill={inks.chosenWash}
          stroke={inks.chosen}
          strokeWidth={1}
          vectorEffect="non-scaling-stroke"
        />
      )}
      {Object.entries(counts).map(([bpm, count]) => {
        const tall = Math.max((94 * count) / most, 2);
        const inside = chosen !== null && Number(bpm) >= chosen[0] && Number(bpm) <= chosen[1];
        return (
          <rect
            key={bpm}
            x={Number(bpm) + 0.12}
            y={100 - tall}
            width={0.76}
            height={tall}
            fill={inside ? inks.chosen : inks.body}
          />
        );
      })}
    </>
  );
}

function Scale({ low, high }: { low: number; high: number }) {
  return (
    <Box sx={{ position: "relative", height: 16, fontSize: "0.65rem", color: "text.secondary" }}>
      {STEPS.filter((n) => n > low && n < high).map((n) => (
        <Box
          key={n}
          component="span"
          sx={{
            position: "absolute",
            left: `${(100 * (n - low)) / (high - low)}%`,
            transform: "translateX(-50%)",
          }}
        >
          {n}
        </Box>
      ))}
    </Box>
  );
}
