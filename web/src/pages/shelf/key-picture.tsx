/** How many tracks in each key, as a ring. */
import { useTheme } from "@mui/material/styles";
import { keyName } from "../../components/key-name";
import { useSettings } from "../../settings";
import { FIFTHS_MAJOR, FIFTHS_MINOR, place } from "../../components/key-ring";

interface Props {
  counts: Record<string, number>;
  chosen: string | null;
  onChange: (key: string | null) => void;
}

/** The circle of fifths, majors outside and minors inside; a click keeps the keys that fit. */
export function KeyPicture({ counts, chosen, onChange }: Props) {
  const { inks } = useTheme();
  const { notation } = useSettings();
  const most = Math.max(1, ...Object.values(counts));
  const picked = chosen ? place(chosen) : null;
  const fits = (index: number, minor: boolean) => {
    if (!picked) return false;
    const apart = Math.min((index - picked.index + 12) % 12, (picked.index - index + 12) % 12);
    return minor === picked.minor ? apart <= 1 : apart === 0;
  };
  const rings = [
    { names: FIFTHS_MAJOR, minor: false, inner: 37, outer: 49 },
    { names: FIFTHS_MINOR, minor: true, inner: 23, outer: 35 },
  ];
  return (
    <svg
      viewBox="-50 -50 100 100"
      height="100%"
      style={{ display: "block", margin: "0 auto" }}
      role="group"
      aria-label="Keys"
    >
      {rings.flatMap(({ names, minor, inner, outer }) =>
        names.map((tonic, i) => {
          const name = `${tonic} ${minor ? "minor" : "major"}`;
          const count = counts[name] ?? 0;
          const on = fits(i, minor);
          return (
            <Segment
              key={name}
              label={`${keyName(name, notation)}: ${count}`}
              path={segment(i, inner, outer)}
              chosen={name === chosen}
              fill={on ? inks.chosen : inks.body}
              opacity={on ? (name === chosen ? 1 : 0.75) : 0.12 + 0.75 * Math.sqrt(count / most)}
              onChoose={() => onChange(name === chosen ? null : name)}
            />
          );
        }),
      )}
      <text
        textAnchor="middle"
        dominantBaseline="central"
        fontSize={chosen ? 12 : 8}
        fontWeight={600}
        fill={inks.ink}
      >
        {chosen ? keyName(chosen, notation === "flats" ? "short" : notation) : "all"}
      </text>
    </svg>
  );
}

interface SegmentProps {
  label: string;
  path: string;
  chosen: boolean;
  fill: string;
  opacity: number;
  onChoose: () => void;
}

function Segment({ label, path, chosen, fill, opacity, onChoose }: SegmentProps) {
  return (
    <path
      d={path}
      role="button"
      tabIndex={0}
      aria-label={label}
      aria-pressed={chosen}
      fill={fill}
      fillOpacity={opacity}
      style={{ cursor: "pointer" }}
      onClick={onChoose}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        onChoose();
      }}
    >
      <title>{label}</title>
    </path>
  );
}

function segment(index: number, inner: number, outer: number): string {
  const [from, to] = [
    ((index - 0.46) * Math.PI) / 6 - Math.PI / 2,
    ((index + 0.46) * Math.PI) / 6 - Math.PI / 2,
  ];
  const at = (radius: number, angle: number) =>
    `${(radius * Math.cos(angle)).toFixed(2)} ${(radius * Math.sin(angle)).toFixed(2)}`;
  return `M${at(outer, from)}A${outer} ${outer} 0 0 1 ${at(outer, to)}L${at(inner, to)}A${inner} ${inner} 0 0 0 ${at(inner, from)}Z`;
}
