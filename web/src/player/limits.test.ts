/** What each stand-in player sees of a stick, by its own limits. */
import { expect, test } from "vitest";
import { canPlay, PLAYERS, seenBy } from "./limits";
import type { StickTrack } from "./stick";

const player = (name: string) => {
  const found = PLAYERS.find((each) => each.name === name);
  if (!found) throw new Error(name);
  return found;
};

const track = {
  anchors: [{ time_s: 0 }, { time_s: 60 }],
  cues: Array.from({ length: 20 }, (_, i) => ({ position_s: i, length_s: 4, engages: true })),
  routes: [{ name: "short", jumps: [] }],
} as unknown as StickTrack;

test("files are played by their kind, whatever the case of their names", () => {
  const plays = (name: string) =>
    ["a.MP3", "b.flac", "c.opus", "d"].map((file) => canPlay(player(name), file));
  expect(plays("Windlass")).toEqual([true, false, false, false]);
  expect(plays("Quay One")).toEqual([true, true, false, false]);
  expect(plays("Fairlead")).toEqual([true, true, true, true]);
});

test("what a player does not know, it does not see", () => {
  const [windlass, quay, fairlead] = ["Windlass", "Quay One", "Fairlead"].map((name) =>
    seenBy(player(name), track),
  );
  expect([windlass, quay, fairlead].map((seen) => seen?.anchors.length)).toEqual([1, 2, 2]);
  expect([windlass, quay, fairlead].map((seen) => seen?.cues.length)).toEqual([4, 8, 16]);
  expect([windlass, quay, fairlead].map((seen) => seen?.cues[0]?.engages)).toEqual([false, true, true]);
  expect([windlass, quay, fairlead].map((seen) => seen?.routes.length)).toEqual([0, 0, 1]);
  expect(track.cues).toHaveLength(20);
});
