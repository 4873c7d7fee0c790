/** Keys as places on a ring. */
import type { Inks } from "../theme";
import { svgImage } from "./svg-image";

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

/** The ring as a picture: one that is shown in many rows is drawn once. */
function ringImage(key: string, { ink, rule }: Inks): string {
  const { index, minor } = place(key);
  const here = DOTS[index];
  const dot = here
    ? `<circle cx="${here.x.toFixed(2)}" cy="${here.y.toFixed(2)}" r="2.1" fill="${ink}"/>`
    : "";
  const middle = minor ? "" : `<circle cx="10" cy="10" r="2.6" fill="${ink}"/>`;
  const ring = `<path d="${ALL_DOTS}" fill="${rule}"/>`;
  return svgImage(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 20">${ring}${dot}${middle}</svg>`);
}

const ringName = (key: string): string => `--ring-${key.replace("#", "sharp").replace(" ", "-")}`;

/** All rings under the names by which pages show them. */
export function ringImages(inks: Inks): Record<string, string> {
  const keys = [
    ...FIFTHS_MAJOR.map((tonic) => `${tonic} major`),
    ...FIFTHS_MINOR.map((tonic) => `${tonic} minor`),
  ];
  return Object.fromEntries(keys.map((key) => [ringName(key), ringImage(key, inks)]));
}

/** A key as a place on a small ring; the middle is filled for major. */
export function KeyRing({ name, size = 18 }: { name: string; size?: number }) {
  return (
    <span
      aria-hidden
      style={{ flex: "none", width: size, height: size, backgroundImage: `var(${ringName(name)})` }}
    />
  );
}
