/** The circle of fifths, C at the top; index 0 to 11. */
export const FIFTHS_MAJOR = ["C", "G", "D", "A", "E", "B", "F#", "Db", "Ab", "Eb", "Bb", "F"] as const;
export const FIFTHS_MINOR = ["A", "E", "B", "F#", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D"] as const;

export function place(key: string): { index: number; minor: boolean } {
  const [tonic = "", mode] = key.split(" ");
  const minor = mode === "minor";
  const ring: readonly string[] = minor ? FIFTHS_MINOR : FIFTHS_MAJOR;
  return { index: ring.indexOf(tonic), minor };
}

const DOTS = Array.from({ length: 12 }, (_, i) => {
  const angle = (i * Math.PI) / 6 - Math.PI / 2;
  return { x: 10 + 8 * Math.cos(angle), y: 10 + 8 * Math.sin(angle) };
});
const ALL_DOTS = DOTS.map(
  ({ x, y }) => `M${(x - 1.5).toFixed(2)} ${y.toFixed(2)}a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0-3 0`,
).join("");

/** A key as a place on a small ring; the middle is filled for major. */
export function KeyRing({ name, size = 18 }: { name: string; size?: number }) {
  const { index, minor } = place(name);
  const here = DOTS[index];
  return (
    <svg width={size} height={size} viewBox="0 0 20 20" aria-hidden style={{ flex: "none" }}>
      <path d={ALL_DOTS} fill="var(--rule)" />
      {here && <circle cx={here.x} cy={here.y} r={2.1} fill="var(--ink)" />}
      {!minor && <circle cx={10} cy={10} r={2.6} fill="var(--ink)" />}
    </svg>
  );
}
