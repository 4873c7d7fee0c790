/** Every key of Vinyl, by room: the one list that the rooms, their buttons and the key sheet share. */

/** A key and what it does. Those that are `fixed` cannot be changed; those that are `silent` are told of by another. */
export interface KeyEntry {
  id: string;
  key: string;
  says: string;
  shown?: string;
  fixed?: true;
  silent?: true;
}

type Room = Record<string, Omit<KeyEntry, "id">>;

const ROOMS = {
  everywhere: {
    find: { key: "/", says: "Find a track" },
    undo: { key: "ctrl+z, meta+z", says: "Undo", shown: "Ctrl Z", fixed: true },
    redo: { key: "ctrl+shift+z, meta+shift+z, ctrl+y", says: "Redo", shown: "Ctrl ⇧ Z", fixed: true },
    help: { key: "shift+slash", says: "This key sheet", shown: "?" },
    rooms: {
      key: "alt+1, alt+2, alt+3, alt+4, alt+5",
      says: "Arrivals, Shelf, Workbench, Crates, Sticks",
      shown: "Alt 1–5",
      fixed: true,
    },
  },
  lists: {
    move: { key: "up, shift+up", says: "Up and down; with ⇧ choose more", shown: "↑ ↓", fixed: true },
    down: { key: "down, shift+down", says: "Down", fixed: true, silent: true },
    left: { key: "left, shift+left", says: "To the left (sleeves)", fixed: true, silent: true },
    right: { key: "right, shift+right", says: "To the right (sleeves)", fixed: true, silent: true },
    pageUp: { key: "pageup, shift+pageup", says: "A page up", fixed: true, silent: true },
    pageDown: { key: "pagedown, shift+pagedown", says: "A page down", fixed: true, silent: true },
    first: { key: "home, shift+home", says: "The first", fixed: true, silent: true },
    last: { key: "end, shift+end", says: "The last", fixed: true, silent: true },
    open: { key: "enter", says: "Open on the Workbench", shown: "↵" },
    play: { key: "space", says: "Play from its main part, pause; the next choice goes on", shown: "Space" },
    back: { key: "comma", says: "16 beats back", shown: "," },
    forth: { key: "period", says: "16 beats forth", shown: "." },
    menu: { key: "shift+f10", says: "All that can be done with the chosen", shown: "⇧ F10", fixed: true },
    tags: { key: "alt+t", says: "Tag card: letters give and take tags, Esc ends", shown: "Alt T" },
    edit: { key: "e", says: "Edit texts and values", shown: "E" },
    fits: { key: "f", says: "What fits this", shown: "F" },
    backing: { key: "shift+b", says: "Shared backing", shown: "⇧ B" },
    never: { key: "shift+n", says: "Never again, or again", shown: "⇧ N" },
    wanted: { key: "shift+v", says: "Wanted in a better file, or no longer", shown: "⇧ V" },
    played: { key: "shift+p", says: "Note as played now", shown: "⇧ P" },
    sleeves: { key: "v", says: "Sleeves, or rows", shown: "V" },
    pictures: { key: "i", says: "Fold or show the pictures (Shelf)", shown: "I" },
    all: { key: "ctrl+a, meta+a", says: "Choose all", shown: "Ctrl A", fixed: true },
    crate: { key: "p", says: "Put into a crate", shown: "P" },
    template: { key: "t", says: "Use a cue template on the chosen", shown: "T" },
    repair: { key: "shift+t", says: "Repair texts in a wrong encoding", shown: "⇧ T" },
    reread: { key: "shift+f", says: "Read the files’ tags again", shown: "⇧ F" },
    analyse: { key: "shift+e", says: "Analyse, again or what is missing", shown: "⇧ E" },
    write: { key: "shift+w", says: "Write tags into the files", shown: "⇧ W" },
    rate: { key: "0, 1, 2, 3, 4, 5", says: "Give stars", shown: "0–5", fixed: true },
    remove: { key: "delete, backspace", says: "Take out of this crate (Crates)", shown: "Del" },
    reorder: { key: "alt+up", says: "Move up or down in this crate (Crates)", shown: "Alt ↑ ↓", fixed: true },
    reorderDown: { key: "alt+down", says: "Move down in this crate", fixed: true, silent: true },
    nextDivider: { key: "ctrl+down", says: "To the next divider", shown: "Ctrl ↓" },
    lastDivider: { key: "ctrl+up", says: "To the divider before", shown: "Ctrl ↑" },
    fold: { key: "o", says: "Fold or open what is under a divider", shown: "O" },
    divider: { key: "d", says: "Set a divider before this track (Crates)", shown: "D" },
    note: { key: "n", says: "Note on this place (Crates)", shown: "N" },
    copy: { key: "ctrl+c, meta+c", says: "Copy the chosen tracks", shown: "Ctrl C", fixed: true },
    cut: { key: "ctrl+x, meta+x", says: "Cut them out of this crate (Crates)", shown: "Ctrl X", fixed: true },
    paste: { key: "ctrl+v, meta+v", says: "Paste them here (Crates)", shown: "Ctrl V", fixed: true },
    lastCrate: { key: "shift+c", says: "Put into the crate that was used last", shown: "⇧ C" },
    rename: { key: "f2", says: "Rename this crate (Crates)", shown: "F2" },
    none: { key: "escape", says: "Choose nothing, clear the search", shown: "Esc" },
  },
  rules: {
    line: { key: "l", says: "Add a line to the rule", shown: "L" },
    why: { key: "w", says: "Why is this track in the crate, or not", shown: "W" },
  },
  listen: {
    play: { key: "space", says: "Play, pause", shown: "Space" },
    countIn: { key: "shift+space", says: "Play after two bars counted in", shown: "⇧ Space" },
    back: { key: "left", says: "A step back", shown: "←" },
    forth: { key: "right", says: "A step forth", shown: "→" },
    shorter: { key: "bracketleft", says: "Shorter steps", shown: "[" },
    longer: { key: "bracketright", says: "Longer steps", shown: "]" },
    walk: { key: "j", says: "Walk on in steps, two beats at each stop", shown: "J" },
    again: { key: "b", says: "Back four beats and listen", shown: "B" },
    pace: { key: "f", says: "Full speed, half, half and lower", shown: "F" },
    click: { key: "k", says: "Metronome click", shown: "K" },
    louder: { key: "alt+up", says: "Click louder", shown: "Alt ↑" },
    softer: { key: "alt+down", says: "Click softer", shown: "Alt ↓" },
    closer: { key: "equal, shift+equal, add", says: "Close-up: nearer", shown: "+" },
    wider: { key: "minus, subtract", says: "Close-up: wider", shown: "−" },
    whole: { key: "0", says: "Close-up: the whole track, or bars", shown: "0" },
  },
  grid: {
    bar: { key: "g", says: "A bar starts here", shown: "G" },
    first: { key: "shift+g", says: "Bar 1 starts here", shown: "⇧ G" },
    align: { key: "a", says: "Move the nearest beat to here", shown: "A" },
    snap: { key: "shift+a", says: "Snap the nearest beat to its attack", shown: "⇧ A" },
    earlier: { key: "comma", says: "Grid 1 ms earlier; with ⇧ 10 ms", shown: "," },
    later: { key: "period", says: "Grid 1 ms later; with ⇧ 10 ms", shown: "." },
    muchEarlier: { key: "shift+comma", says: "Grid 10 ms earlier", fixed: true, silent: true },
    muchLater: { key: "shift+period", says: "Grid 10 ms later", fixed: true, silent: true },
    barEarlier: { key: "alt+comma", says: "Bars start a beat earlier", shown: "Alt ," },
    barLater: { key: "alt+period", says: "Bars start a beat later", shown: "Alt ." },
    halve: { key: "h", says: "Halve the tempo", shown: "H" },
    double: { key: "d", says: "Double the tempo", shown: "D" },
    twoForThree: { key: "shift+h", says: "Tempo × 2/3", shown: "⇧ H" },
    threeForTwo: { key: "shift+d", says: "Tempo × 3/2", shown: "⇧ D" },
    tempo: { key: "t", says: "Type the tempo, metre, other track’s", shown: "T" },
    tap: { key: "r", says: "Tap the tempo; ↵ takes it", shown: "R" },
    stretch: { key: "z", says: "Stretch from bar 1: line meets attack", shown: "Z" },
    pin: { key: "u", says: "Pin the line to its attack", shown: "U" },
    anchor: { key: "shift+u", says: "Anchor on the nearest line", shown: "⇧ U" },
    unpin: { key: "shift+delete, shift+backspace", says: "Delete the nearest anchor", shown: "⇧ Del" },
    mark: { key: "x", says: "Mark a stretch: from, to, none", shown: "X" },
    join: { key: "shift+x", says: "One tempo over the marked stretch", shown: "⇧ X" },
    rescan: { key: "shift+r", says: "Rescan: steady, stepped, elastic", shown: "⇧ R" },
    worst: { key: "w", says: "To the worst place of the grid", shown: "W" },
    reset: { key: "alt+r", says: "Back to the analysed grid", shown: "Alt R" },
    lock: { key: "l", says: "Lock or unlock the grid", shown: "L" },
  },
  cues: {
    cue: { key: "c", says: "Set a cue", shown: "C" },
    in: { key: "i", says: "Set or move the in point", shown: "I" },
    main: { key: "m", says: "Set or move the main point", shown: "M" },
    out: { key: "e", says: "Set or move the out point", shown: "E" },
    loop: { key: "o", says: "Set a loop of the chosen length, leave it", shown: "O" },
    loopShorter: { key: "semicolon", says: "Halve the loop", shown: ";" },
    loopLonger: { key: "quote", says: "Double the loop", shown: "’" },
    loopOn: { key: "shift+o", says: "Move the loop on by its length", shown: "⇧ O" },
    engage: { key: "shift+e", says: "The loop engages by itself, or not", shown: "⇧ E" },
    pads: { key: "1, 2, 3, 4, 5, 6, 7, 8", says: "Jump to a pad, or set it here", shown: "1–8", fixed: true },
    nth: {
      key: "shift+1, shift+2, shift+3, shift+4, shift+5, shift+6, shift+7, shift+8",
      says: "Jump to the n-th cue",
      shown: "⇧ 1–8",
      fixed: true,
    },
    select: { key: "up", says: "Choose a cue and jump to it", shown: "↑ ↓", fixed: true },
    selectNext: { key: "down", says: "Choose the next cue", fixed: true, silent: true },
    snap: { key: "q", says: "Snap to beat, bar, phrase, off", shown: "Q" },
    name: { key: "n", says: "Name the chosen cue", shown: "N" },
    colour: { key: "v", says: "Next colour for the chosen cue", shown: "V" },
    toHere: { key: "s", says: "Shift the chosen cue to here", shown: "S" },
    beatBack: { key: "alt+left", says: "Chosen cue a beat earlier", shown: "Alt ←" },
    beatForth: { key: "alt+right", says: "Chosen cue a beat later", shown: "Alt →" },
    msBack: { key: "shift+left", says: "Chosen cue 1 ms earlier", shown: "⇧ ←" },
    msForth: { key: "shift+right", says: "Chosen cue 1 ms later", shown: "⇧ →" },
    onPad: { key: "shift+p", says: "Chosen cue onto a free pad, or off", shown: "⇧ P" },
    number: { key: "shift+n", says: "Number the pads in order of time", shown: "⇧ N" },
    remove: { key: "delete, backspace", says: "Delete the chosen cue", shown: "Del" },
    accept: { key: "y", says: "Accept the next proposal", shown: "Y" },
    acceptAll: { key: "shift+y", says: "Accept all proposals", shown: "⇧ Y" },
    ontoGrid: { key: "shift+s", says: "Move all cues onto the grid", shown: "⇧ S" },
    template: { key: "shift+t", says: "Use a template", shown: "⇧ T" },
    lock: { key: "shift+l", says: "Lock or unlock the cues", shown: "⇧ L" },
  },
  track: {
    next: { key: "enter", says: "Next track", shown: "↵" },
    previous: { key: "shift+enter", says: "Previous track", shown: "⇧ ↵" },
    queue: { key: "shift+q", says: "Choose what to prepare", shown: "⇧ Q" },
    starMore: { key: "shift+up", says: "A star more", shown: "⇧ ↑" },
    starLess: { key: "shift+down", says: "A star less", shown: "⇧ ↓" },
    crate: { key: "p", says: "Put the track into a crate", shown: "P" },
    tags: { key: "alt+t", says: "Tag card: letters give and take tags, Esc ends", shown: "Alt T" },
    edit: { key: "alt+e", says: "Edit texts and values", shown: "Alt E" },
    write: { key: "shift+w", says: "Write tags into the track’s file", shown: "⇧ W" },
    record: { key: "shift+j", says: "Record jumps as a route, and stop", shown: "⇧ J" },
    route: { key: "alt+j", says: "Play the chosen route", shown: "Alt J" },
    lockKey: { key: "alt+k", says: "Lock or unlock the key", shown: "Alt K" },
    lockTags: { key: "alt+l", says: "Lock or unlock the tags", shown: "Alt L" },
  },
} satisfies Record<string, Room>;

type Rooms = typeof ROOMS;
export type RoomName = keyof Rooms;

/** Every key of Vinyl, by room: the one list that the rooms, their buttons and the key sheet share. */
export const KEYS = Object.fromEntries(
  Object.entries(ROOMS).map(([room, entries]) => [
    room,
    Object.fromEntries(
      Object.entries(entries as Room).map(([name, entry]) => [name, { id: `${room}.${name}`, ...entry }]),
    ),
  ]),
) as { [R in RoomName]: { [K in keyof Rooms[R]]: KeyEntry } };

/** Rooms whose keys work at the same time, and so may not clash. */
export const TOGETHER: readonly (readonly RoomName[])[] = [
  ["everywhere", "lists", "rules"],
  ["everywhere", "listen", "grid", "cues", "track"],
];
