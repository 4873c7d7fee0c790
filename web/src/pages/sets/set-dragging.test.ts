/** What letting a track go asks for: the place it is let go on, the tray, or nothing where it stays. */
import { expect, test } from "vitest";
import { dropped, type Held, type Spot } from "./set-dragging";
import type { Entry } from "./use-sets";

const set = { order: [1, 2, 3].map((id) => ({ id }) as Entry) };
const entry = (id: number): Held => ({ entry: id, track_id: 10 * id });
const fresh: Held = { entry: null, track_id: 70 };
const on = (id: number | null): Spot => ({ tray: false, on: id });
const moved = (id: number, before: number | null) => ({
  move: { entry_ids: [id], placed: true, before },
});

test.each([
  ["upwards before it", entry(3), on(1), moved(3, 1)],
  ["downwards behind it", entry(1), on(2), moved(1, 3)],
  ["onto the last", entry(1), on(3), moved(1, null)],
  ["to the end", entry(1), on(null), moved(1, null)],
  ["where it is", entry(2), on(2), {}],
  ["the last to the end", entry(3), on(null), {}],
  ["from the tray", entry(9), on(2), moved(9, 2)],
  ["from the tray to the end", entry(9), on(null), moved(9, null)],
  ["a suggestion", fresh, on(2), { add: { ids: [70], placed: true, before: 2 } }],
  ["into the tray", entry(2), { tray: true }, { move: { entry_ids: [2], placed: false, before: null } }],
  ["a suggestion into the tray", fresh, { tray: true }, { add: { ids: [70], placed: false } }],
  ["what is in the tray", entry(9), { tray: true }, {}],
  ["what has no track", { entry: null, track_id: null }, on(1), {}],
] as const)("%s", (_, held, spot, asked) => {
  expect(dropped(set, held, spot)).toEqual(asked);
});
