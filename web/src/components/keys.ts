/** Every key of Vinyl, by room: the one list that the rooms, their buttons and the key sheet share. */
export const KEYS = {
  everywhere: {
    find: { key: "/", says: "Find a track" },
    undo: { key: "ctrl+z, meta+z", says: "Undo", shown: "Ctrl Z" },
    redo: { key: "ctrl+shift+z, meta+shift+z, ctrl+y", says: "Redo", shown: "Ctrl ⇧ Z" },
    help: { key: "shift+slash", says: "This key sheet", shown: "?" },
    rooms: { key: "alt+1, alt+2, alt+3, alt+4, alt+5", says: "Arrivals, Shelf, Workbench, Crates, Sticks", shown: "Alt 1–5" },
  },
  lists: {
    move: { key: "up, down", says: "Up and down; with ⇧ choose more", shown: "↑ ↓" },
    open: { key: "enter", says: "Open on the Workbench", shown: "↵" },
    all: { key: "ctrl+a, meta+a", says: "Choose all", shown: "Ctrl A" },
    crate: { key: "p", says: "Put into a crate", shown: "P" },
    rate: { key: "0, 1, 2, 3, 4, 5", says: "Give stars", shown: "0–5" },
    remove: { key: "delete, backspace", says: "Take out of this crate (Crates)", shown: "Del" },
    reorder: { key: "alt+up, alt+down", says: "Move up or down in this crate (Crates)", shown: "Alt ↑ ↓" },
    none: { key: "escape", says: "Choose nothing, clear the search", shown: "Esc" },
  },
  listen: {
    play: { key: "space", says: "Play, pause", shown: "Space" },
    back: { key: "left", says: "A step back", shown: "←" },
    forth: { key: "right", says: "A step forth", shown: "→" },
    shorter: { key: "bracketleft", says: "Shorter steps", shown: "[" },
    longer: { key: "bracketright", says: "Longer steps", shown: "]" },
    click: { key: "k", says: "Metronome click", shown: "K" },
    again: { key: "b", says: "Back four beats and listen", shown: "B" },
    next: { key: "enter", says: "Next track", shown: "↵" },
    previous: { key: "shift+enter", says: "Previous track", shown: "⇧ ↵" },
    closer: { key: "equal, shift+equal, add", says: "Close-up: nearer", shown: "+" },
    wider: { key: "minus, subtract", says: "Close-up: wider", shown: "−" },
  },
  grid: {
    bar: { key: "g", says: "A bar starts here", shown: "G" },
    first: { key: "shift+g", says: "Bar 1 starts here", shown: "⇧ G" },
    align: { key: "a", says: "Move the nearest beat to here", shown: "A" },
    earlier: { key: "comma", says: "Grid 1 ms earlier; with ⇧ 10 ms", shown: "," },
    later: { key: "period", says: "Grid 1 ms later; with ⇧ 10 ms", shown: "." },
    halve: { key: "h", says: "Halve the tempo", shown: "H" },
    double: { key: "d", says: "Double the tempo", shown: "D" },
    tempo: { key: "t", says: "Type the tempo", shown: "T" },
    reset: { key: "shift+r", says: "Back to the analysed grid", shown: "⇧ R" },
  },
  cues: {
    cue: { key: "c", says: "Set a cue", shown: "C" },
    in: { key: "i", says: "Set or move the in point", shown: "I" },
    main: { key: "m", says: "Set or move the main point", shown: "M" },
    out: { key: "e", says: "Set or move the out point", shown: "E" },
    loop: { key: "o", says: "Set a loop of the chosen length", shown: "O" },
    pads: { key: "1, 2, 3, 4, 5, 6, 7, 8", says: "Jump to a pad, or set it here", shown: "1–8" },
    select: { key: "up, down", says: "Choose a cue and jump to it", shown: "↑ ↓" },
    name: { key: "n", says: "Name the chosen cue", shown: "N" },
    colour: { key: "v", says: "Next colour for the chosen cue", shown: "V" },
    toHere: { key: "s", says: "Shift the chosen cue to here", shown: "S" },
    beatBack: { key: "alt+left", says: "Chosen cue a beat earlier", shown: "Alt ←" },
    beatForth: { key: "alt+right", says: "Chosen cue a beat later", shown: "Alt →" },
    remove: { key: "delete, backspace", says: "Delete the chosen cue", shown: "Del" },
    crate: { key: "p", says: "Put the track into a crate", shown: "P" },
  },
} as const;

/** How a key is written on its button. */
export function shown(entry: { key: string; shown?: string }): string {
  return entry.shown ?? entry.key;
}
