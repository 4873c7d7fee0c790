/** Beats to seconds and back, with known answers. */
import { describe, expect, it } from "vitest";
import { layOut, placeOf, timeOf } from "./page";
import { TempoMap } from "./tempo-map";

const steady = new TempoMap({
  anchors: [{ time: 0.5, beat: 0, bpm: 120 }],
  beats_per_bar: 4,
  phrase_bars: 8,
});
const stepped = new TempoMap({
  anchors: [
    { time: 0.2, beat: 0, bpm: 100 },
    { time: 38.6, beat: 64, bpm: 126 },
  ],
  beats_per_bar: 4,
  phrase_bars: 8,
});

describe("the tempo map for drawing", () => {
  it("agrees with the core on both sides of every anchor", () => {
    expect(steady.timeAt(-1)).toBeCloseTo(0, 9);
    expect(steady.timeAt(240)).toBeCloseTo(120.5, 9);
    expect(stepped.timeAt(32)).toBeCloseTo(19.4, 9);
    expect(stepped.timeAt(65)).toBeCloseTo(38.6 + 60 / 126, 9);
    for (const beat of [-7.5, 0, 12.25, 64, 300])
      expect(stepped.beatAt(stepped.timeAt(beat))).toBeCloseTo(beat, 9);
  });

  it("counts bars from 1 and snaps to the nearest beat", () => {
    expect(steady.barAndBeat(0.5)).toBe("1.1");
    expect(steady.barAndBeat(0.499)).toBe("1.1");
    expect(steady.barAndBeat(3.2)).toBe("2.2");
    expect(steady.barAndBeat(0.1)).toBe("0.4");
    expect(steady.snap(3.2)).toBeCloseTo(3, 9);
  });
});

describe("the page", () => {
  it("has a line for every 16 bars, and a place for every time", () => {
    for (const map of [steady, stepped]) {
      const layout = layOut(map, 200, 800, 500);
      expect(layout.lines).toBe(Math.ceil((map.beatAt(200) - 0.25 - layout.firstBeat) / 64));
      for (const time of [0.5, 19.4, 64.3, 150.01, 199.9]) {
        const { x, y } = placeOf(layout, map, time);
        expect(timeOf(layout, map, 200, x, y + 3)).toBeCloseTo(time, 6);
      }
      expect(placeOf(layout, map, map.timeAt(64)).y).toBeGreaterThan(
        placeOf(layout, map, map.timeAt(63.9)).y,
      );
    }
  });
});
