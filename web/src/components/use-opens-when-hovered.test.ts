// @vitest-environment jsdom
/** A folder opens once something is held over it for a moment, and not when it is only passed over. */
import { renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { useOpensWhenHovered } from "./use-opens-when-hovered";

beforeEach(() => vi.useFakeTimers());
afterEach(() => vi.useRealTimers());

const MOMENT_MS = 1000;

test("what is held over it opens it once, what passes does not", () => {
  const open = vi.fn();
  const { rerender, unmount } = renderHook(({ over }) => useOpensWhenHovered(over, open), {
    initialProps: { over: true },
  });
  vi.advanceTimersByTime(MOMENT_MS / 5);
  rerender({ over: false });
  vi.advanceTimersByTime(MOMENT_MS);
  expect(open).not.toHaveBeenCalled();
  rerender({ over: true });
  vi.advanceTimersByTime(3 * MOMENT_MS);
  expect(open).toHaveBeenCalledTimes(1);
  rerender({ over: false });
  rerender({ over: true });
  unmount();
  vi.advanceTimersByTime(MOMENT_MS);
  expect(open).toHaveBeenCalledTimes(1);
});

test("what opens it is what it is then, not what it was when it began", () => {
  const [before, now] = [vi.fn(), vi.fn()];
  const { rerender } = renderHook(({ open }) => useOpensWhenHovered(true, open), {
    initialProps: { open: before },
  });
  rerender({ open: now });
  vi.advanceTimersByTime(MOMENT_MS);
  expect([before.mock.calls.length, now.mock.calls.length]).toEqual([0, 1]);
});
