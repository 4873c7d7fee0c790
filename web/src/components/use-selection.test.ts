// @vitest-environment jsdom
/** Choosing rows of a table whose rows move meanwhile, and of one so long that not all are known. */
import { act, renderHook } from "@testing-library/react";
import { expect, test } from "vitest";
import { EVERY, type Found } from "../api/queries";
import type { TrackSource } from "./tracks";
import { useSelection } from "./use-selection";

const PLAIN = { shiftKey: false, ctrlKey: false, metaKey: false };

function source(ids: readonly number[], more: Partial<TrackSource> = {}): TrackSource {
  return {
    ...{ total: ids.length, library: ids.length, found: null, readAs: null, settled: true, failure: null },
    idAt: (place) => ids[place],
    trackAt: () => undefined,
    trackIdOf: (id) => id,
    placeOf: (id) => ids.indexOf(id),
    show: () => undefined,
    idsBetween: (from, to) => Promise.resolve(ids.slice(from, to + 1)),
    ...more,
  };
}

const open = (first: TrackSource) => renderHook(useSelection, { initialProps: first });
const ids = (selection: ReturnType<typeof useSelection>) => selection.picked().chosen.ids;

test("a range is counted from the row that was chosen, wherever that has moved", async () => {
  const { result, rerender } = open(source([10, 11, 12, 13, 14]));
  act(() => result.current.click(1, PLAIN));
  rerender(source([14, 13, 12, 11, 10]));
  expect(result.current.focus).toBe(3);
  await act(async () => result.current.click(1, { ...PLAIN, shiftKey: true }));
  expect(ids(result.current)).toEqual([13, 12, 11]);
});

test("rows are added and taken out one by one, and come in the order of the table", () => {
  const { result } = open(source([10, 11, 12, 13]));
  act(() => result.current.click(3, PLAIN));
  act(() => result.current.click(0, { ...PLAIN, ctrlKey: true }));
  act(() => result.current.click(2, { ...PLAIN, metaKey: true }));
  expect(ids(result.current)).toEqual([10, 12, 13]);
  act(() => result.current.click(3, { ...PLAIN, ctrlKey: true }));
  expect(ids(result.current)).toEqual([10, 12]);
});

test("keys stop at both ends", () => {
  const { result } = open(source([10, 11, 12]));
  act(() => result.current.move(-5, false));
  expect(ids(result.current)).toEqual([10]);
  act(() => result.current.move(99, false));
  expect([result.current.focus, ids(result.current)]).toEqual([2, [12]]);
});

test("all that was found is asked for by what was looked for, without those taken out again", () => {
  const found: Found = { where: EVERY, sort: "title", descending: false };
  const long = source([10, 11, 12], { total: 90_000, found });
  const { result, rerender } = open(long);
  act(() => result.current.all());
  act(() => result.current.click(1, { ...PLAIN, ctrlKey: true }));
  expect(result.current.count).toBe(89_999);
  expect([result.current.has(10), result.current.has(11)]).toEqual([true, false]);
  expect(result.current.picked()).toEqual({
    chosen: { found: { ...found, first: 0, last: null, without: [11] } },
    count: 89_999,
  });
  rerender({ ...long, found: { ...found, where: { kind: "list", list_id: 1 } } });
  expect(result.current.count).toBe(0);
});

test("what is done to a row is done to all that is chosen only if it is among them", () => {
  const { result } = open(source([10, 11, 12]));
  act(() => result.current.click(0, PLAIN));
  act(() => result.current.click(1, { ...PLAIN, ctrlKey: true }));
  expect(result.current.pickedWith(11).chosen).toEqual({ ids: [10, 11] });
  expect(result.current.pickedWith(12).chosen).toEqual({ ids: [12] });
});
