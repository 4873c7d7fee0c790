/** The time of a route. */
import { describe, expect, it } from "vitest";
import { layOut, placeOf, timeOf } from "./page";
import { parseRaster, rowShift } from "./raster";
import { RouteMap } from "./route-map";
import { TempoMap } from "./tempo-map";

const map = new TempoMap({ anchors: [{ time: 0, beat: 0, bpm: 120 }], beats_per_bar: 4, phrase_bars: 8 });
// From 0 to bar 17, on at bar 33 to bar 49, back to bar 25 for the rest of 130 s.
const route = new RouteMap(map, [
  { start_s: 0, end_s: 32 },
  { start_s: 64, end_s: 96 },
  { start_s: 48, end_s: 130 },
]);

describe("a route's own beats", () => {
  it("count on over the joints and lead to what is played", () => {
    expect(route.length).toBe(32 + 32 + 82);
    expect(route.timeAt(63)).toBeCloseTo(31.5, 9);
    expect(route.timeAt(64)).toBeCloseTo(64, 9);
    expect(route.timeAt(130)).toBeCloseTo(49, 9);
    expect(route.endBeat).toBeCloseTo(2 * 146, 9);
  });

  it("find the first place at which a time is played, or where what is left out was passed", () => {
    expect(route.beatAt(10)).toBeCloseTo(20, 9);
    expect(route.beatAt(70)).toBeCloseTo(76, 9);
    expect(route.beatAt(50)).toBeCloseTo(132, 9);
    expect(route.beatAt(40)).toBeCloseTo(64, 9);
    expect([10, 31.99, 40, 63.98, 129].map((time) => route.plays(time))).toEqual([
      true,
      false,
      false,
      true,
      true,
    ]);
  });

  it("lay out as a page that is shorter than the track's when less is played", () => {
    const short = new RouteMap(map, [
      { start_s: 0, end_s: 32 },
      { start_s: 96, end_s: 130 },
    ]);
    const [whole, part] = [layOut(map, 130, 800, 500), layOut(short, 130, 800, 500)];
    expect(part.lines).toBeLessThan(whole.lines);
    const { x, y } = placeOf(part, short, 100);
    expect(timeOf(part, short, 130, x, y + 3)).toBeCloseTo(100, 6);
  });
});

describe("the raster under the hand", () => {
  it("is read as the core has folded it", () => {
    const buffer = new ArrayBuffer(16 + 12);
    const view = new DataView(buffer);
    [2, 3, -1].forEach((value, i) => view.setInt32(4 * i, value, true));
    view.setFloat32(12, 0.25, true);
    new Uint8Array(buffer, 16).set([1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12]);
    expect(parseRaster(buffer)).toMatchObject({ bars: 2, columns: 3, firstBar: -1, margin: 0.25 });
    expect([...parseRaster(buffer).high]).toEqual([7, 8, 9, 10, 11, 12]);
  });

  it("shifts all rows alike, and leans them from the row that is held", () => {
    expect(rowShift(null, 9)).toBe(0);
    expect(rowShift({ shift: 0.1, by: 0, from: 0, at: 1 }, 40)).toBeCloseTo(0.1);
    const lean = { shift: 0, by: 0.2, from: 10, at: 30 };
    expect([5, 10, 20, 30, 50].map((row) => Number(rowShift(lean, row).toFixed(6)))).toEqual([
      0, 0, 0.1, 0.2, 0.4,
    ]);
  });
});
