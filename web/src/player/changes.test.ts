/** What was changed on a player is seen by it, as long as it was changed on the index that is there. */
import { expect, test } from "vitest";
import { nudged, withChanges, withCue } from "./changes";
import type { Change, StickIndex, StickTrack } from "./stick";

const TRACK: StickTrack = {
  ...{ id: "t1", file: "a.mp3", title: "Low Water", artist: "Kelp Union", duration_s: 300, bpm: 120 },
  ...{ key: null, stars: 2, beats_per_bar: 4, anchors: [{ time: 0.5, beat: 0, bpm: 120 }], cues: [] },
  ...{ routes: [], picture: null },
};

const list = (id: string) => ({ id, name: id, within: [], tracks: ["t1", "t2"], divided: [] });
const player = (profile: string) => ({ profile, settings: {}, tracks: [TRACK], lists: [list("l1")] });
const INDEX: StickIndex = {
  ...{ name: "PIER", written_at: "now", files: [], players: [player("fairlead"), player("windlass")] },
};
const change = (what: Partial<Change>): Change =>
  ({ change: "c", at: "2026-11-20", on: "now", player: "fairlead", what: "stars", ...what }) as Change;

test("changes are put on one player, the last of a kind counting, and the index stays as it was", () => {
  const seen = withChanges(INDEX, "fairlead", [
    change({ track: "t1", stars: 4 }),
    change({ track: "t1", stars: 5 }),
    change({ what: "list", list: "l1", tracks: ["t2"] }),
    change({ player: "windlass", track: "t1", stars: 1 }),
  ]);
  expect(seen?.tracks[0]?.stars).toBe(5);
  expect(seen?.lists[0]?.tracks).toEqual(["t2"]);
  expect(INDEX.players[0]?.tracks[0]?.stars).toBe(2);
  expect(INDEX.players[0]?.lists[0]?.tracks).toEqual(["t1", "t2"]);
});

test("what was changed on an older index, or of what is no longer there, is past", () => {
  const seen = withChanges(INDEX, "fairlead", [
    change({ on: "before", track: "t1", stars: 5 }),
    change({ track: "gone", stars: 5 }),
    change({ what: "list", list: "gone", tracks: [] }),
  ]);
  expect(seen).toEqual(INDEX.players[0]);
  expect(withChanges(INDEX, "unknown", [])).toBeNull();
});

test("no stars at all are a change too", () => {
  expect(withChanges(INDEX, "fairlead", [change({ track: "t1", stars: 0 })])?.tracks[0]?.stars).toBe(0);
});

test("a grid is moved as a whole, and a cue takes its place in time", () => {
  expect(nudged([...TRACK.anchors, { time: 60.5, beat: 120, bpm: 90 }], -0.01)).toEqual([
    { time: 0.49, beat: 0, bpm: 120 },
    { time: 60.49, beat: 120, bpm: 90 },
  ]);
  const cues = withCue(withCue(withCue([], 30, null), 10, 8), 20, null);
  expect(cues.map(({ position_s, length_s }) => [position_s, length_s])).toEqual([
    [10, 8],
    [20, null],
    [30, null],
  ]);
});
