/** The state of the sound, and the playhead, for components. */
import { useEffect, useEffectEvent, useSyncExternalStore } from "react";
import { engine, type EngineState } from "./engine";

export function useEngine(): EngineState {
  return useSyncExternalStore(engine.subscribe, engine.snapshot);
}

/** Calls `draw` with the position heard, before every frame in which it has moved or something to draw has changed. */
export function usePlayhead(draw: (time: number) => void, changes: readonly unknown[]): void {
  const drawNow = useEffectEvent(draw);
  useEffect(() => {
    let frame = 0;
    let last = Number.NaN;
    const step = () => {
      const time = engine.position();
      if (time !== last) {
        last = time;
        drawNow(time);
      }
      frame = requestAnimationFrame(step);
    };
    const redraw = () => {
      last = Number.NaN;
    };
    step();
    const leave = engine.subscribe(redraw);
    window.addEventListener("resize", redraw);
    return () => {
      cancelAnimationFrame(frame);
      leave();
      window.removeEventListener("resize", redraw);
    };
  }, [...changes]); // eslint-disable-line react-hooks/exhaustive-deps
}
