import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useRef, useState } from "react";

interface Props {
  counts: Record<string, number>;
  from: number | null;
  to: number | null;
  onChange: (from: number | null, to: number | null) => void;
}

const STEPS = [80, 100, 120, 140, 160, 180];

/** How many tracks at each tempo; drag across it to choose a range, click to let go. */
export function TempoPicture({ counts, from, to, onChange }: Props) {
  const { inks } = useTheme();
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<[number, number] | null>(null);
  const tempi = Object.keys(counts).map(Number);
  const low = Math.min(76, ...tempi) - 2;
  const high = Math.max(182, ...tempi) + 3;
  const most = Math.max(1, ...Object.values(counts));
  const [a, b] = drag ? [Math.min(...drag), Math.max(...drag)] : [from, to];

  const tempoAt = (event: React.PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    return box ? Math.round(low + ((event.clientX - box.left) / box.width) * (high - low)) : low;
  };
  const release = () => {
    if (!drag) return;
    if (drag[0] === drag[1]) onChange(null, null);
    else onChange(Math.min(...drag), Math.max(...drag));
    setDrag(null);
  };
  const nudge = (event: React.KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const [start, end] =
      from === null || to === null ? [120, 126] : event.shiftKey ? [from, to + by] : [from + by, to + by];
    onChange(start, Math.max(start, end));
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
        onKeyDown={nudge}
      >
        <rect x={low} y={0} width={high - low} height={100} fill="transparent" />
        {a !== null && b !== null && (
          <rect
            x={a}
            y={0}
            width={Math.max(b - a + 1, 0.3)}
            height={100}
            fill={inks.chosenWash}
            stroke={inks.chosen}
            strokeWidth={1}
            vectorEffect="non-scaling-stroke"
          />
        )}
        {tempi.map((bpm) => {
          const tall = Math.max((94 * (counts[String(bpm)] ?? 0)) / most, 2);
          const inside = a !== null && b !== null && bpm >= a && bpm <= b;
          return (
            <rect
              key={bpm}
              x={bpm + 0.12}
              y={100 - tall}
              width={0.76}
              height={tall}
              fill={inside ? inks.chosen : inks.body}
            />
          );
        })}
      </svg>
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
    </Box>
  );
}
