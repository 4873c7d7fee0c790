/** Settings that a stick carries along, as the player obeys them. */
import type { StickTrack } from "./stick";

export type Settings = Record<string, string>;

/** How far the tempo slide reaches to both sides, as a share. */
export const rangeOf = (settings: Settings): number => (parseFloat(settings["range"] ?? "") || 10) / 100;

/** How many beats a new loop has. */
export const loopBeats = (settings: Settings): number => parseInt(settings["loop"] ?? "", 10) || 4;

/** Where a track stands when it is loaded. */
export function startOf(settings: Settings, track: StickTrack): number {
  const wanted = settings["start"] ?? "at its in point";
  const role = wanted.includes("main") ? "main" : wanted.includes("in point") ? "in" : "";
  return track.cues.find((cue) => cue.role === role)?.position_s ?? 0;
}

export const holdsKey = (settings: Settings): boolean => settings["key held"] === "is held";

export const brightnessOf = (settings: Settings): number =>
  settings["brightness"] === "dim" ? 0.6 : settings["brightness"] === "bright" ? 1.25 : 1;
