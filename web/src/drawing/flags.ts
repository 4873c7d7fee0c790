/** The flags of cues and their colours. */
import type { Cue, Schema } from "../api/client";
import { cueColour, FIGURES, TEXT, type Inks } from "../theme";

/** What the user has made of each colour: a sign, so that none is told by colour alone, and perhaps a shade. */
export type Palette = Readonly<Record<string, { sign: string; hex?: string | null }>>;

/** The shade of a cue's colour: the user's own, or the look's. */
export function shadeOf(palette: Palette, colour: string, inks: Inks): string {
  return palette[colour]?.hex ?? cueColour(colour, inks);
}

/** Ink or paper, whichever can be read on a shade. */
export function readableOn(hex: string): string {
  const [r, g, b] = [1, 3, 5].map((at) => (parseInt(hex.slice(at, at + 2), 16) / 255) ** 2.2) as [
    number,
    number,
    number,
  ];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b > 0.2 ? "#10181a" : "#ffffff";
}

/** What stands on a cue's flag: a sign for its role, the pad's number, or its colour's sign. */
export function cueSign(cue: Pick<Cue, "pad" | "role" | "length_s" | "colour">, palette: Palette): string {
  if (cue.role === "in") return "▸";
  if (cue.role === "out") return "◂";
  if (cue.pad !== null) return String(cue.pad);
  if (cue.role === "main") return "M";
  return palette[cue.colour]?.sign || (cue.length_s === null ? "•" : "∞");
}

export function drawFlagAt(
  context: CanvasRenderingContext2D,
  x: number,
  y: number,
  tall: number,
  cue: Cue,
  chosen: boolean,
  palette: Palette,
  inks: Inks,
): void {
  const shade = shadeOf(palette, cue.colour, inks);
  context.fillStyle = shade;
  context.fillRect(x - 1, y, 2, tall);
  flagPath(context, x, y);
  context.fill();
  if (chosen) {
    context.strokeStyle = inks.ink;
    context.lineWidth = 1.5;
    context.stroke();
  }
  context.fillStyle = readableOn(shade);
  context.font = `600 10px ${FIGURES}`;
  context.textAlign = "center";
  context.fillText(cueSign(cue, palette), x + 5.5, y + 10);
}

/** A cue that is only proposed: a flag in outline, with its name beside it. */
export function drawGhostAt(
  context: CanvasRenderingContext2D,
  x: number,
  y: number,
  tall: number,
  ghost: Schema["ProposalOut"],
  inks: Inks,
): void {
  context.strokeStyle = inks.ink;
  context.lineWidth = 1;
  context.setLineDash([2, 2]);
  context.beginPath();
  context.moveTo(x, y);
  context.lineTo(x, y + tall);
  context.stroke();
  context.setLineDash([]);
  context.fillStyle = inks.paper;
  flagPath(context, x, y);
  context.fill();
  context.stroke();
  context.fillStyle = inks.ink;
  context.font = `600 9.5px ${TEXT}`;
  context.textAlign = "left";
  context.fillText("?", x + 3, y + 10);
  context.font = `italic 10.5px ${TEXT}`;
  const wide = context.measureText(ghost.label).width;
  context.fillStyle = inks.paper;
  context.fillRect(x + 16, y, wide + 7, 13);
  context.fillStyle = inks.ink;
  context.fillText(ghost.label, x + 19, y + 10);
}

function flagPath(context: CanvasRenderingContext2D, x: number, y: number): void {
  context.beginPath();
  context.moveTo(x - 1, y);
  context.lineTo(x + 16, y);
  context.lineTo(x + 12, y + 6.5);
  context.lineTo(x + 16, y + 13);
  context.lineTo(x - 1, y + 13);
  context.closePath();
}
