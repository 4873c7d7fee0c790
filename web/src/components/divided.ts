/** Lines of a table: tracks, and the dividers between them; what is folded has no lines. */
import { useMemo } from "react";
import type { Schema } from "../api/client";

export type Divided = Schema["DividedOut"];

export interface Dividers {
  sections: readonly Divided[];
  /** Names of the dividers whose tracks are folded away. */
  folded: readonly string[];
  fold: (name: string) => void;
  /** How a divider is written. */
  written: (section: Divided) => string;
  /** What can be done with one that was set by hand. */
  change: ((section: Divided, what: DividerAct) => void) | null;
}

export type DividerAct = "edit" | "up" | "down" | "remove";

export interface Lines {
  count: number;
  /** The place of a track, or -1 - n for the n-th divider. */
  at: (line: number) => number;
  /** The line of a track; of one that is folded away, its divider's. */
  of: (place: number) => number;
}

/** Without dividers each track is a line. */
function plain(total: number): Lines {
  return { count: total, at: (line) => line, of: (place) => place };
}

/** The lines of so many tracks under dividers. */
export function linesOf(total: number, dividers: Pick<Dividers, "sections" | "folded">): Lines {
  const { sections, folded } = dividers;
  if (!sections.length) return plain(total);
  const lines: number[] = [];
  const places = new Array<number>(total);
  const add = (from: number, to: number, hidden: boolean) => {
    for (let place = from; place < Math.min(to, total); place++) {
      places[place] = hidden ? lines.length - 1 : lines.length;
      if (!hidden) lines.push(place);
    }
  };
  add(0, sections[0]?.at ?? 0, false);
  sections.forEach((section, n) => {
    lines.push(-1 - n);
    add(section.at, sections[n + 1]?.at ?? total, folded.includes(foldName(section)));
  });
  return {
    count: lines.length,
    at: (line) => lines[line] ?? 0,
    of: (place) => places[place] ?? 0,
  };
}

/** By what name it is remembered that a divider is folded. */
export function foldName(section: Divided): string {
  return section.divider_id === null ? section.name : String(section.divider_id);
}

export function useLines(total: number, dividers: Dividers | undefined): Lines {
  const { sections, folded } = dividers ?? NONE;
  return useMemo(() => linesOf(total, { sections, folded }), [total, sections, folded]);
}

const NONE = { sections: [], folded: [] };

/** The track so many lines on from another, past dividers; the last that there is on the way. */
export function step(lines: Lines, from: number, by: number): number {
  const way = Math.sign(by);
  let [line, place] = [lines.of(from), from];
  for (let left = Math.abs(by); left > 0;) {
    line += way;
    if (line < 0 || line >= lines.count) break;
    const at = lines.at(line);
    if (at < 0) continue;
    place = at;
    left--;
  }
  return place;
}

/** The first track below the next divider, or below the one before. */
export function jump(sections: readonly Divided[], from: number, way: 1 | -1): number {
  const starts = sections.filter((section) => section.tracks > 0).map((section) => section.at);
  if (way > 0) return starts.find((at) => at > from) ?? from;
  return starts.filter((at) => at < from).at(-1) ?? 0;
}
