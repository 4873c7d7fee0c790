/** Keys: none clash, and changed ones are kept. */
import { beforeEach, describe, expect, it, vi } from "vitest";

const stored = new Map<string, string>();
vi.stubGlobal("localStorage", {
  getItem: (key: string) => stored.get(key) ?? null,
  setItem: (key: string, value: string) => void stored.set(key, value),
});

const { KEYS, TOGETHER } = await import("./keys");
const { changeKey, clashOf, keyOf, pressed, resetKeys, shown } = await import("./key-map");

describe("the keys", () => {
  beforeEach(() => resetKeys());

  it("do not clash as they are shipped", () => {
    for (const rooms of TOGETHER) {
      const taken = new Map<string, string>();
      for (const room of rooms) {
        for (const entry of Object.values(KEYS[room])) {
          for (const key of entry.key.split(", ")) {
            expect(taken.get(key), `${key}: ${entry.says}`).toBeUndefined();
            taken.set(key, entry.says);
          }
        }
      }
    }
  });

  it("can be changed, are kept, and are written anew on their buttons", () => {
    changeKey(KEYS.cues.cue, "shift+9");
    expect(keyOf(KEYS.cues.cue)).toBe("shift+9");
    expect(shown(KEYS.cues.cue)).toBe("⇧ 9");
    expect(stored.get("vinyl.keys")).toContain("shift+9");
    changeKey(KEYS.cues.cue, KEYS.cues.cue.key);
    expect(stored.get("vinyl.keys")).toBe("{}");
  });

  it("refuse a key that means something in the same rooms, but not in others", () => {
    expect(clashOf(KEYS.cues.cue, "g")?.says).toBe("A bar starts here");
    expect(clashOf(KEYS.cues.cue, "ctrl+z")?.says).toBe("Undo");
    expect(clashOf(KEYS.lists.crate, "g")).toBeNull();
    changeKey(KEYS.grid.bar, "9");
    expect(clashOf(KEYS.cues.cue, "g")).toBeNull();
    expect(clashOf(KEYS.cues.cue, "9")?.says).toBe("A bar starts here");
  });

  it("are told from what was pressed", () => {
    const none = { key: "", ctrlKey: false, altKey: false, shiftKey: false, metaKey: false };
    expect(pressed({ ...none, code: "KeyA", shiftKey: true })).toBe("shift+a");
    expect(pressed({ ...none, code: "ArrowLeft", altKey: true })).toBe("alt+left");
    expect(pressed({ ...none, code: "Digit4" })).toBe("4");
    expect(pressed({ ...none, code: "ShiftLeft", shiftKey: true })).toBeNull();
  });
});
