import { useTheme } from "@mui/material/styles";

/** The circle of fifths, C at the top; index 0 to 11. */
export const FIFTHS_MAJOR = ["C", "G", "D", "A", "E", "B", "F#", "Db", "Ab", "Eb", "Bb", "F"] as const;
export const FIFTHS_MINOR = ["A", "E", "B", "F#", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D"] as const;

export function place(key: string): { index: number; minor: boolean } {
  const [tonic = "", mode] = key.split(" ");
  const minor = mode === "minor";
  const ring: readonly string[] = minor ? FIFTHS_MINOR : FIFTHS_MAJOR;
  return { index: ring.indexOf(tonic), minor };
}

/** A key as a place on a small ring; the middle is filled for major. */
export function KeyRing({ name, size = 18 }: { name: string; size?: number }) {
  const { inks } = useTheme();
  const { index, minor } = place(name);
  const dots = Array.from({ length: 12 }, (_, i) => {
    const angle = (i * Math.PI) / 6 - Math.PI / 2;
    const here = i === index;
    return <circle key={i} cx={10 + 8 * Math.cos(angle)} cy={10 + 8 * Math.sin(angle)} r={here ? 2 : 1.5} fill={here ? inks.ink : inks.rule} />;
  });
  return (
    <svg width={size} height={size} viewBox="0 0 20 20" aria-hidden style={{ flex: "none" }}>
      {dots}
      {!minor && <circle cx={10} cy={10} r={2.6} fill={inks.ink} />}
    </svg>
  );
}
