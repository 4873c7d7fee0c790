/** Going along lists on a player, its limits, and what is changed on it. */
import { describe, expect, it } from "vitest";
import { rowsOf } from "./browse";
import { nudged, withChanges, withCue } from "./changes";
import { canPlay, PLAYERS, seenBy } from "./limits";
import type { Change, StickCue, StickIndex, StickTrack } from "./stick";

const cue = (position_s: number, engages = false): StickCue => ({
  position_s,
  length_s: engages ? 2 : null,
  label: "",
  role: null,
  colour: "ink",
  pad: null,
  engages,
  id: `c${position_s}`,
});

const track = (id: string, title: string, bpm: number, key: string): StickTrack => ({
  id,
  file: `Music/${id}.flac`,
  title,
  artist: "Halden Pier",
  duration_s: 100,
  bpm,
  key,
  stars: 0,
  beats_per_bar: 4,
  anchors: [
    { time: 1, beat: 0, bpm },
    { time: 50, beat: 100, bpm: bpm + 5 },
  ],
  cues: [1, 2, 3, 4, 5].map((at) => cue(at, at === 2)),
  routes: [{ name: "short", jumps: [[10, 20]] }],
  picture: null,
});

const index: StickIndex = {
  name: "TIDE-1",
  written_at: "2026-11-20T10:00:00+00:00",
  files: [],
  players: [
    {
      profile: "Fairlead",
      settings: {},
      tracks: [track("a", "Café", 124, "10m"), track("b", "Rigging", 118, "2d")],
      lists: [{ id: "l", name: "Main", within: [], tracks: ["a", "b", "gone"], divided: [[1, "Late"]] }],
    },
  ],
};

const titles = (words: string, sorted: Parameters<typeof rowsOf>[3]) => {
  const [player] = index.players;
  const [list] = player?.lists ?? [];
  if (!player || !list) throw new Error("nothing there");
  return rowsOf(player, list, words, sorted).map((row) => ("divider" in row ? row.divider : row.track.title));
};

describe("the stand-in players", () => {
  it("show dividers in a list's own order only, and find words without their accents", () => {
    expect(titles("", "list")).toEqual(["Café", "Late", "Rigging"]);
    expect(titles("", "tempo")).toEqual(["Rigging", "Café"]);
    expect(titles("", "key")).toEqual(["Rigging", "Café"]);
    expect(titles("cafe halden", "list")).toEqual(["Café"]);
    expect(titles("nothing", "list")).toEqual([]);
  });

  it("see no more of a track than their limits let them", () => {
    const [windlass, , fairlead] = PLAYERS;
    if (!windlass || !fairlead) throw new Error("nothing there");
    const whole = track("a", "Café", 124, "10m");
    const seen = seenBy(windlass, whole);
    expect([seen.cues.length, seen.anchors.length, seen.routes.length]).toEqual([4, 1, 0]);
    expect(seen.cues.some(({ engages }) => engages)).toBe(false);
    expect(seenBy(fairlead, whole)).toEqual(whole);
    expect([canPlay(windlass, "x.flac"), canPlay(windlass, "x.MP3"), canPlay(fairlead, "x.opus")]).toEqual([
      false,
      true,
      true,
    ]);
  });

  it("apply what was changed on them to the index that it was changed on", () => {
    const made: Change = {
      change: "x",
      at: "",
      on: index.written_at,
      player: "Fairlead",
      what: "stars",
      track: "a",
      stars: 5,
    };
    const past: Change = { ...made, on: "before", stars: 1 };
    const list: Change = { ...made, what: "list", list: "l", tracks: ["b", "a"] };
    const seen = withChanges(index, "Fairlead", [made, past, list]);
    expect(seen?.tracks[0]?.stars).toBe(5);
    expect(seen?.lists[0]?.tracks).toEqual(["b", "a"]);
    expect(withChanges(index, "Windlass", [made])).toBeNull();
    const old = { ...index, players: index.players.map((player) => ({ ...player, profile: "Capstan" })) };
    expect(withChanges(old, "Windlass", [])?.profile).toBe("Capstan");
    expect(nudged([{ time: 1, beat: 0, bpm: 120 }], 0.001)[0]?.time).toBeCloseTo(1.001);
    expect(withCue([cue(1), cue(3)], 2, null).map(({ position_s }) => position_s)).toEqual([1, 2, 3]);
  });
});
