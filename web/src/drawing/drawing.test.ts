/** What drawings are made of: signs and shades of cues, rows of the raster, places on the drift line. */
import { expect, test } from "vitest";
import type { Cue } from "../api/client";
import { cueColour, INKS } from "../theme";
import { driftTime } from "./drift";
import { cueSign, readableOn, shadeOf } from "./flags";
import { parseRaster, rowShift } from "./raster";

const COLOURS = ["red", "orange", "yellow", "green", "blue", "violet", "grey", "black"];

/** Contrast of two colours (WCAG 2.1). */
function contrast(one: string, other: string): number {
  const light = (hex: string) =>
    [0.2126, 0.7152, 0.0722].reduce((sum, say, c) => {
      const value = parseInt(hex.slice(1 + 2 * c, 3 + 2 * c), 16) / 255;
      return sum + say * (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4);
    }, 0);
  const [high = 0, low = 0] = [light(one), light(other)].sort((a, b) => b - a);
  return (high + 0.05) / (low + 0.05);
}

test("the sign on a flag can be read on every shade, of both looks and of one's own", () => {
  const own = Array.from({ length: 64 }, (_, i) =>
    "#".concat(...[i >> 4, (i >> 2) & 3, i & 3].map((c) => (85 * c).toString(16).padStart(2, "0"))),
  );
  const shades = Object.values(INKS).flatMap((inks) => COLOURS.map((name) => cueColour(name, inks)));
  for (const shade of [...shades, ...own])
    expect(contrast(shade, readableOn(shade)), shade).toBeGreaterThan(4);
});

test("a cue's own shade is taken where there is one", () => {
  const palette = { red: { sign: "!", hex: "#123456" }, blue: { sign: "" } };
  expect(shadeOf(palette, "red", INKS.paper)).toBe("#123456");
  expect(shadeOf(palette, "blue", INKS.paper)).toBe(cueColour("blue", INKS.paper));
});

test("a flag says the role first, then the pad, then the colour's sign", () => {
  const cue = { pad: null, role: null, length_s: null, colour: "red" };
  const sign = (more: Partial<Cue>) => cueSign({ ...cue, ...more } as Cue, { red: { sign: "!" } });
  expect(sign({ role: "in", pad: 2 })).toBe("▸");
  expect(sign({ role: "out" })).toBe("◂");
  expect(sign({ role: "main", pad: 2 })).toBe("2");
  expect(sign({ role: "main" })).toBe("M");
  expect(sign({})).toBe("!");
  expect(sign({ colour: "blue" })).toBe("•");
  expect(sign({ colour: "blue", length_s: 4 })).toBe("∞");
});

test("a raster is read row by row, and leans more from row to row below the one that is held", () => {
  const head = new DataView(new ArrayBuffer(16));
  [2, 3, -1].forEach((value, i) => head.setInt32(4 * i, value, true));
  head.setFloat32(12, 0.5, true);
  const cells = Uint8Array.from({ length: 12 }, (_, i) => i);
  const raster = parseRaster(new Uint8Array([...new Uint8Array(head.buffer), ...cells]).buffer);
  expect(raster).toMatchObject({ bars: 2, columns: 3, firstBar: -1, margin: 0.5 });
  expect([[...raster.low], [...raster.high]]).toEqual([
    [0, 1, 2, 3, 4, 5],
    [6, 7, 8, 9, 10, 11],
  ]);
  const lean = { shift: 0.1, by: 0.4, from: 10, at: 20 };
  expect([0, 10, 15, 20, 30].map((row) => rowShift(lean, row))).toEqual([0.1, 0.1, 0.1 + 0.2, 0.5, 0.9]);
  expect(rowShift(null, 5)).toBe(0);
  expect(rowShift({ ...lean, at: 10 }, 11)).toBe(0.5);
});

test("a place on the drift line is a time within the track", () => {
  const times = [0, 62, 62 + 466, 994, 2000].map((x) => driftTime(x, 1000, 200));
  expect(times).toEqual([0, 0, 100, 200, 200]);
});
