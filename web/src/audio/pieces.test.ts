/** Pieces of sound: read across their joints, and fetched before they are wanted. */
import { afterEach, expect, test, vi } from "vitest";
import { Ahead, fetchPiece } from "./ahead";
import { CHUNK_FRAMES, Pcm, RATE } from "./pcm";
import { Pieces } from "./pieces";

afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

/** A piece whose left channel holds its frames' numbers, and whose right one the same below zero. */
const piece = (first: number) =>
  Int16Array.from({ length: 2 * CHUNK_FRAMES }, (_, i) => ((first + (i >> 1)) % 1000) * (i % 2 ? -1 : 1));

test("samples are read over the joint of two pieces, between frames too, and silence where none is", () => {
  const pieces = new Pieces();
  pieces.add(0, piece(0));
  pieces.add(1, new Int16Array(2 * CHUNK_FRAMES).fill(1000));
  const last = (CHUNK_FRAMES - 1) % 1000;
  expect(pieces.at(CHUNK_FRAMES - 1, 0) * 32768).toBeCloseTo(last);
  expect(pieces.at(7, 1) * 32768).toBeCloseTo(-7);
  expect(pieces.between(CHUNK_FRAMES - 0.5, 0) * 32768).toBeCloseTo((last + 1000) / 2);
  expect([pieces.has(2 * CHUNK_FRAMES - 1), pieces.has(2 * CHUNK_FRAMES)]).toEqual([true, false]);
  expect(pieces.at(2 * CHUNK_FRAMES, 0)).toBe(0);
  pieces.drop(1);
  expect(pieces.at(CHUNK_FRAMES, 0)).toBe(0);
  pieces.clear();
  expect(pieces.has(0)).toBe(false);
});

test("peaks are known where pieces are loaded, and only where few are asked for", () => {
  const pcm = new Pcm();
  const samples = new Int16Array(2 * CHUNK_FRAMES);
  samples[2 * 320 + 1] = -32768;
  pcm.add(0, samples);
  const second = (frame: number) => frame / RATE;
  expect(pcm.peak(second(321), second(330))).toBe(1);
  expect(pcm.peak(second(352), second(390))).toBe(0);
  expect(pcm.peak(0, second(CHUNK_FRAMES))).toBeNull();
  expect(pcm.peak(second(CHUNK_FRAMES + 1), second(CHUNK_FRAMES + 40))).toBeNull();
});

test("a listening copy that is being made is asked for again, and a refusal is told in the server's words", async () => {
  vi.useFakeTimers();
  const answers = [
    new Response(null, { status: 503 }),
    new Response(null, { status: 503 }),
    new Response(new Int16Array([1, 2]).buffer),
  ];
  const asked = vi.fn<(url: string) => Promise<Response>>(() =>
    Promise.resolve(answers.shift() ?? Response.error()),
  );
  vi.stubGlobal("fetch", asked);
  const got = fetchPiece(5, 2);
  await vi.runAllTimersAsync();
  expect([...(await got)]).toEqual([1, 2]);
  expect(asked).toHaveBeenCalledTimes(3);
  expect(asked.mock.calls[0]?.[0]).toBe(
    `/api/tracks/5/listening?first_frame=${2 * CHUNK_FRAMES}&frames=${CHUNK_FRAMES}`,
  );
  answers.push(Response.json({ detail: "The file is gone." }, { status: 410 }));
  await expect(fetchPiece(5, 2)).rejects.toThrow("The file is gone.");
  vi.stubGlobal("fetch", () => Promise.reject(new TypeError("failed")));
  await expect(fetchPiece(5, 2)).rejects.toThrow("does not answer");
});

test("pieces are fetched ahead once, handed over once, and forgotten for the tracks before the last three", async () => {
  const asked = vi.fn((url: string) =>
    Promise.resolve(url.includes("/9/") ? Response.error() : new Response(new Int16Array([1]).buffer)),
  );
  vi.stubGlobal("fetch", asked);
  const ahead = new Ahead();
  ahead.fetch(1, [0, 10, CHUNK_FRAMES]);
  ahead.fetch(1, [5]);
  expect(asked).toHaveBeenCalledTimes(2);
  expect([...((await ahead.take(1, 0)) ?? [])]).toEqual([1]);
  expect(ahead.take(1, 0)).toBeUndefined();
  for (const track of [2, 3, 9]) ahead.fetch(track, [0]);
  expect(ahead.take(1, 1)).toBeUndefined();
  expect(await ahead.take(9, 0)).toBeNull();
});
