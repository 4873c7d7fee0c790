// @vitest-environment jsdom
/** The columns of a list: asked for, moved, widened, and given way where there is no room. */
import { act, renderHook } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";
import { App } from "../testing";
import { useTableLayout } from "./use-table-layout";

beforeEach(() => localStorage.clear());

const open = (room = 5000, without: string[] = []) =>
  renderHook(({ wide }) => useTableLayout("shelf", without, wide), {
    wrapper: App,
    initialProps: { wide: room },
  });

test("a list begins with the usual columns, less those it has no use for", () => {
  const { result } = open(5000, ["Plays"]);
  expect(result.current.columns[0]).toBe("Title");
  expect(result.current.columns).not.toContain("Plays");
  expect(result.current.shown).toEqual(result.current.columns);
  expect(result.current.isOwn).toBe(false);
});

test("what was chosen is remembered for the list, until the usual is wanted again", () => {
  const first = open();
  act(() => first.result.current.show("Plays", false));
  act(() => first.result.current.move("Tempo", 0));
  act(() => first.result.current.widen("Title", 0.5));
  const { result } = open();
  expect(result.current.columns[0]).toBe("Tempo");
  expect(result.current.columns).not.toContain("Plays");
  expect(result.current.widths.Title).toBe(2);
  expect(result.current.isOwn).toBe(true);
  act(() => result.current.show("Plays", true));
  expect(result.current.columns.at(-1)).toBe("Plays");
  act(() => result.current.reset());
  expect(result.current.isOwn).toBe(false);
  expect(result.current.columns[0]).toBe("Title");
});

test("the last column cannot be put away", () => {
  const { result } = open();
  for (const name of result.current.columns) act(() => result.current.show(name, false));
  expect(result.current.columns).toHaveLength(1);
});

test("columns give way where there is no room, those that were asked for last of all, and come back", () => {
  const { result, rerender } = open(800);
  const { shown, columns } = result.current;
  expect(shown.length).toBeLessThan(columns.length);
  expect(shown).toContain("Title");
  expect(result.current.leastPx).toBeLessThanOrEqual(800);
  const hidden = columns.find((name) => !shown.includes(name)) ?? "";
  act(() => result.current.show(hidden, true));
  expect(result.current.shown).toContain(hidden);
  rerender({ wide: 5000 });
  expect(result.current.shown).toEqual(result.current.columns);
});
