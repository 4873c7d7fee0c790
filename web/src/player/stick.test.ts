/** Reading a stick. */
import { describe, expect, it } from "vitest";
import { beatsOf, fileUrl, type StickTrack } from "./stick";

const track = (anchors: StickTrack["anchors"], duration_s = 10): StickTrack => ({
  id: "x",
  file: "x",
  title: "",
  artist: "",
  duration_s,
  bpm: null,
  key: null,
  stars: 0,
  routes: [],
  beats_per_bar: 4,
  anchors,
  cues: [],
  picture: null,
});

describe("the stand-in player's reading of the stick", () => {
  it("counts beats before the first anchor and after the last", () => {
    const beats = beatsOf(track([{ time: 1.25, beat: 0, bpm: 120 }]));
    expect(beats[0]).toEqual({ beat: -2, time: 0.25 });
    expect(beats.at(-1)?.time).toBeLessThan(10);
    expect(beats).toHaveLength(20);
    expect(beats.every((b) => Math.abs(b.time - (1.25 + b.beat * 0.5)) < 1e-9)).toBe(true);
  });

  it("follows a step in tempo without losing or doubling a beat", () => {
    const beats = beatsOf(
      track(
        [
          { time: 0, beat: 0, bpm: 60 },
          { time: 4, beat: 4, bpm: 120 },
        ],
        8,
      ),
    );
    expect(beats.map((b) => b.beat)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]);
    expect(beats.map((b) => b.time)).toEqual([0, 1, 2, 3, 4, 4.5, 5, 5.5, 6, 6.5, 7, 7.5]);
    expect(beatsOf(track([]))).toEqual([]);
  });

  it("asks for files with odd names", () => {
    expect(fileUrl("Slipway #1", "Music/A & B/100%?.mp3")).toBe(
      "/player/sticks/Slipway%20%231/files/Music/A%20%26%20B/100%25%3F.mp3",
    );
  });
});
