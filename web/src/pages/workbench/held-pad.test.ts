// @vitest-environment jsdom
/** A pad that is held plays, let go it returns; a tap goes there and stays. */
import { renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { engine } from "../../audio/engine";
import { holdPad, useHeldPads } from "./held-pad";

const down = (code: string) => new KeyboardEvent("keydown", { code });
const up = (code: string) => window.dispatchEvent(new KeyboardEvent("keyup", { code }));

beforeEach(() => {
  vi.useFakeTimers();
  vi.spyOn(engine, "position").mockReturnValue(42);
  vi.spyOn(engine, "play").mockResolvedValue();
  vi.spyOn(engine, "pause").mockReturnValue();
  vi.spyOn(engine, "seek").mockReturnValue();
  renderHook(() => useHeldPads());
});
afterEach(() => {
  vi.restoreAllMocks();
  vi.useRealTimers();
});

test("held, it plays, and goes back to where one was when its own key is let go", () => {
  holdPad(down("Digit2"));
  expect(engine.play).not.toHaveBeenCalled();
  vi.advanceTimersByTime(300);
  expect(engine.play).toHaveBeenCalledTimes(1);
  up("Digit3");
  expect(engine.seek).not.toHaveBeenCalled();
  up("Digit2");
  expect(engine.pause).toHaveBeenCalled();
  expect(engine.seek).toHaveBeenCalledWith(42);
});

test("a tap stays where it went, and nothing plays later; while it plays a pad only jumps", () => {
  holdPad(down("Digit2"));
  vi.advanceTimersByTime(100);
  up("Digit2");
  vi.advanceTimersByTime(1000);
  expect(engine.play).not.toHaveBeenCalled();
  expect(engine.seek).not.toHaveBeenCalled();
  vi.spyOn(engine, "snapshot").mockReturnValue({ ...engine.snapshot(), playing: true });
  holdPad(down("Digit2"));
  vi.advanceTimersByTime(1000);
  up("Digit2");
  expect(engine.seek).not.toHaveBeenCalled();
});
