// @vitest-environment jsdom
/** Keys pressed after a search whose rows have not come yet. */
import { act, renderHook } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import type { TrackSource } from "../../components/tracks";
import { useSelection } from "../../components/use-selection";
import { useToRows } from "./use-to-rows";

const rows = (ids: readonly number[], settled: boolean): TrackSource => ({
  ...{ total: ids.length, library: 9, found: null, readAs: null, failure: null, settled },
  ...{ trackIdOf: (id) => id, trackAt: () => undefined, show: () => undefined },
  idAt: (place) => ids[place],
  placeOf: (id) => ids.indexOf(id),
  idsBetween: (from, to) => Promise.resolve(ids.slice(from, to + 1)),
});

function open(first: TrackSource) {
  const opened = vi.fn();
  const { result, rerender } = renderHook(
    (source: TrackSource) => {
      const selection = useSelection(source);
      return { selection, toRows: useToRows(source, selection, opened) };
    },
    { initialProps: first },
  );
  return { now: () => result.current, rerender, opened };
}

test("what is pressed before the rows have come is done with the first of those that come", async () => {
  const { now, rerender, opened } = open(rows([10, 11, 12], false));
  act(() => now().selection.move(2, false));
  act(() => now().toRows());
  expect(now().selection.count).toBe(0);
  await userEvent.keyboard("{Enter}");
  expect(opened).not.toHaveBeenCalled();
  rerender(rows([21, 22], true));
  expect(now().selection.picked().chosen.ids).toEqual([21]);
  expect(opened.mock.calls).toEqual([[21, 0]]);
  rerender(rows([31], false));
  rerender(rows([31], true));
  expect(opened).toHaveBeenCalledTimes(1);
});

test("where nothing comes, nothing is opened then or later", async () => {
  const { now, rerender, opened } = open(rows([10], false));
  act(() => now().toRows());
  await userEvent.keyboard("{Enter}");
  rerender(rows([], true));
  rerender(rows([31], false));
  rerender(rows([31], true));
  expect(now().selection.count).toBe(0);
  expect(opened).not.toHaveBeenCalled();
});
