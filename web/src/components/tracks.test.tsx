// @vitest-environment jsdom
/** Rows of a table: fetched a window at a time, however many there are, and only those in sight. */
import { serve } from "../testing-server";
import { act, renderHook, waitFor } from "@testing-library/react";
import { expect, test } from "vitest";
import { EVERY, PAGE, type Found } from "../api/queries";
import { App } from "../testing";
import { inOrder, useFound, useListed } from "./tracks";

interface Asked {
  offset: number;
  limit: number;
  ids: number[];
}

const LIBRARY = 100_000;
const ALL: Found = { where: EVERY, sort: "title", descending: false };
const SLOW: Found = { where: { kind: "words", text: "slow" }, sort: "title", descending: false };

/** A library in which the track at each place has its place plus 1000 as its id. */
function library(total = LIBRARY) {
  const row = (id: number) => ({ id, title: `Song ${id}` });
  const ids = ({ offset, limit }: Asked) =>
    Array.from({ length: Math.max(0, Math.min(limit, total - offset)) }, (_, i) => 1000 + offset + i);
  return serve({
    "POST /api/tracks/find": (asked: Asked) => ({
      ...{ total, library: LIBRARY, read_as: null },
      rows: ids(asked).map(row),
    }),
    "POST /api/tracks/ids": (asked: Asked) => ({ ids: ids(asked) }),
    "POST /api/tracks/rows": ({ ids: wanted }: Asked) => wanted.map(row),
  });
}

const offsets = (asked: { what: string; body: unknown }[], what: string) =>
  asked.filter((each) => each.what === what).map(({ body }) => (body as Asked).offset);

const find = (found: Found) =>
  renderHook(({ what }) => useFound(what), { wrapper: App, initialProps: { what: found } });

test("of a hundred thousand tracks only the windows around those in sight are fetched", async () => {
  const asked = library();
  const { result } = find(ALL);
  await waitFor(() => expect(result.current.total).toBe(LIBRARY));
  expect(result.current.trackAt(0)?.title).toBe("Song 1000");
  act(() => result.current.show(50_000, 50_020));
  await waitFor(() => expect(result.current.idAt(50_010)).toBe(51_010));
  expect(result.current.placeOf(51_010)).toBe(50_010);
  expect(result.current.trackAt(99_999)).toBeUndefined();
  expect(result.current.placeOf(1000 + 99_999)).toBe(-1);
  expect(new Set(offsets(asked, "POST /api/tracks/find")).size).toBeLessThanOrEqual(6);
  act(() => result.current.show(LIBRARY - 5, LIBRARY + 30));
  await waitFor(() => expect(result.current.idAt(LIBRARY - 1)).toBe(1000 + LIBRARY - 1));
  expect(Math.max(...offsets(asked, "POST /api/tracks/find"))).toBeLessThan(LIBRARY);
});

test("what is found anew is shown from its top, and only that is fetched", async () => {
  const asked = library();
  const { result, rerender } = find(ALL);
  await waitFor(() => expect(result.current.total).toBe(LIBRARY));
  act(() => result.current.show(3000, 3020));
  await waitFor(() => expect(result.current.idAt(3010)).toBe(4010));
  const before = asked.length;
  rerender({ what: SLOW });
  await waitFor(() => expect(result.current.settled && result.current.idAt(0) === 1000).toBe(true));
  expect(offsets(asked.slice(before), "POST /api/tracks/find").every((offset) => offset <= 2 * PAGE)).toBe(
    true,
  );
});

test("ids of a long stretch are asked for, those of rows that are there are not", async () => {
  const asked = library();
  const { result } = find(ALL);
  await waitFor(() => expect(result.current.idAt(PAGE - 1)).toBe(1000 + PAGE - 1));
  expect(await result.current.idsBetween(3, 9)).toEqual([1003, 1004, 1005, 1006, 1007, 1008, 1009]);
  expect(offsets(asked, "POST /api/tracks/ids")).toEqual([]);
  const long = await result.current.idsBetween(10, 4000);
  expect([long.length, long[0], long.at(-1)]).toEqual([3991, 1010, 5000]);
});

test("a search that cannot be read says why", async () => {
  serve({ "POST /api/tracks/find": Response.json({ detail: "The library is busy." }, { status: 503 }) });
  const { result } = find(ALL);
  await waitFor(() => expect(result.current.failure).toBe("The library is busy."));
  expect([result.current.total, result.current.settled]).toEqual([null, false]);
});

test("a list by hand may hold a track twice, each at its own place", async () => {
  library();
  const { result } = renderHook(() => useListed([7, 8, -1], 3, { [-1]: 7 }), { wrapper: App });
  act(() => result.current.show(0, 2));
  await waitFor(() => expect(result.current.trackAt(2)?.id).toBe(7));
  expect([result.current.idAt(2), result.current.trackIdOf(-1), result.current.placeOf(-1)]).toEqual([
    -1, 7, 2,
  ]);
  expect(inOrder(result.current, new Set([-1, 8, 7]))).toEqual([7, 8, -1]);
  expect(inOrder(result.current, new Set([99, 8, 7]))).toEqual([99, 8, 7]);
});
