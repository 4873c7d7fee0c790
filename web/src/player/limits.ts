/** What each of the stand-in players can do. They know their own limits, whatever a stick says. */
import type { StickTrack } from "./stick";

export interface Limits {
  name: string;
  /** What older sticks call it. */
  formerly?: string;
  suffixes: readonly string[] | null;
  places: number;
  steadyOnly: boolean;
  engages: boolean;
  routes: boolean;
  writesBack: boolean;
  /** Plays as loud as files say of themselves. */
  levels: boolean;
  waveforms: boolean;
}

export const PLAYERS: readonly Limits[] = [
  {
    name: "Windlass",
    formerly: "Capstan",
    suffixes: ["mp3", "wav"],
    places: 4,
    steadyOnly: true,
    engages: false,
    routes: false,
    writesBack: false,
    levels: false,
    waveforms: false,
  },
  {
    name: "Quay One",
    suffixes: ["mp3", "m4a", "mp4", "aac", "flac", "wav"],
    places: 8,
    steadyOnly: false,
    engages: true,
    routes: false,
    writesBack: false,
    levels: true,
    waveforms: true,
  },
  {
    name: "Fairlead",
    suffixes: null,
    places: 16,
    steadyOnly: false,
    engages: true,
    routes: true,
    writesBack: true,
    levels: true,
    waveforms: true,
  },
];

export const canPlay = (limits: Limits, file: string): boolean =>
  limits.suffixes === null || limits.suffixes.includes(file.split(".").at(-1)?.toLowerCase() ?? "");

/** A track as a player shows it: what it does not know, it does not see. */
export const seenBy = (limits: Limits, track: StickTrack): StickTrack => ({
  ...track,
  anchors: limits.steadyOnly ? track.anchors.slice(0, 1) : track.anchors,
  cues: track.cues.slice(0, limits.places).map((cue) => ({ ...cue, engages: cue.engages && limits.engages })),
  routes: limits.routes ? track.routes : [],
});
