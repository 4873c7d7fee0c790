/** A pad that is held while nothing plays: it plays from there, and let go, it returns to where one was. */
import { useEffect } from "react";
import { engine } from "../../audio/engine";

/** Held for so long a key is no tap, which goes to the pad and stays there. */
const HELD_MS = 220;

interface Held {
  code: string;
  from_s: number;
  timer: number;
  plays: boolean;
}

let held: Held | null = null;

/** A pad's key went down, before anything is done. */
export function holdPad(event: KeyboardEvent): void {
  release();
  if (engine.snapshot().playing) return;
  const mine: Held = { code: event.code, from_s: engine.position(), timer: 0, plays: false };
  mine.timer = window.setTimeout(() => {
    mine.plays = true;
    void engine.play();
  }, HELD_MS);
  held = mine;
}

function release(): void {
  if (!held) return;
  window.clearTimeout(held.timer);
  const { plays, from_s } = held;
  held = null;
  if (!plays) return;
  engine.pause();
  engine.seek(from_s);
}

/** Listens for the key that is let go; leaving the window lets go too. */
export function useHeldPads(): void {
  useEffect(() => {
    const up = (event: KeyboardEvent) => event.code === held?.code && release();
    window.addEventListener("keyup", up);
    window.addEventListener("blur", release);
    return () => {
      release();
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", release);
    };
  }, []);
}
