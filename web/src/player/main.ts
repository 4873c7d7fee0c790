/** The stand-in players: one page that reads a stick as the chosen one of them does, and plays it. */
import "../fonts";
import "./player.css";
import { Browser } from "./browser";
import { change, nudged, withChanges, withCue } from "./changes";
import { Deck } from "./deck";
import { button, clock, element } from "./dom";
import { PLAYERS, seenBy, type Limits } from "./limits";
import { brightnessOf, holdsKey, loopBeats, rangeOf, startOf, type Settings } from "./settings";
import {
  fileUrl,
  readChanges,
  readFile,
  readIndex,
  readSlots,
  writeLine,
  type StickCue,
  type StickIndex,
  type StickList,
  type StickPlayer,
  type StickTrack,
} from "./stick";
import { drawOverview, parseOverview, type Overview } from "./overview";
import { drawStrip } from "./strip";
import { say } from "./words";

/** After so many seconds a track counts as played: that is written down on the stick. */
const PLAYED_S = 10;
const NUDGE_S = 0.001;

const deck = new Deck();
const root = document.getElementById("player") ?? document.body;
const asked = new URLSearchParams(location.search).get("as");
let limits: Limits = PLAYERS.find(({ name }) => name === asked) ?? (PLAYERS[1] as Limits);
let stick = "";
let index: StickIndex | null = null;
let player: StickPlayer | null = null;
let written: StickTrack | null = null;
let play: { play: string; track: string; began_at: string } | null = null;
let last_s = 0;
let overview: Overview | null = null;

const settings = (): Settings => player?.settings ?? {};
const word = (text: Parameters<typeof say>[0]) => say(text, settings()["language"]);
const browser = new Browser({
  onStick: (name) => void insert(name).catch(tell),
  onTrack: (track) => void load(track).catch(tell),
  onRaise: (list, id) => void raise(list, id).catch(tell),
});
const kinds = element("div", { className: "crates kinds" });
const name = element("h1", { textContent: "Nothing loaded" });
const facts = element("p", { className: "facts" });
const picture = element("img", { alt: "", hidden: true });
const strip = element("canvas", { className: "strip" });
const whole = element("canvas", {
  className: "whole",
  hidden: true,
  title: "The whole track: go to a place",
});
const time = element("output", { className: "time", textContent: "0:00.0" });
const playButton = button("Play", "Play or stop (Space)", toggle);
const cueButtonHere = button("Cue here", "Set a cue here (C)", () => void setCue(null).catch(tell));
const loopButton = button("Loop", "A loop from here, or leave the loop (L)", toggleLoop);
const slide = element("input", { type: "range", step: "0.0005", value: "1", ariaLabel: "Tempo" });
const slideSays = element("output", { className: "time small" });
const gridEarlier = button(
  "◂ grid",
  "The grid a millisecond earlier ([)",
  () => void nudge(-NUDGE_S).catch(tell),
);
const gridLater = button("grid ▸", "The grid a millisecond later (])", () => void nudge(NUDGE_S).catch(tell));
const stars = element("div", { className: "stars" });
const routes = element("select", { ariaLabel: "Route" });
const cues = element("div", { className: "cues" });
const message = element("p", { className: "message", role: "status" });

root.append(
  element("aside", {}, kinds, browser.slots, browser.lists, browser.find, browser.sorts, browser.tracks),
  element(
    "main",
    {},
    element("header", {}, picture, element("div", {}, name, facts), stars),
    strip,
    whole,
    element("div", { className: "row" }, playButton, time, cueButtonHere, loopButton, gridEarlier, gridLater),
    element("div", { className: "row slide" }, slide, slideSays, routes),
    cues,
    message,
  ),
);

function tell(error: unknown): void {
  message.textContent = error instanceof Error ? error.message : String(error);
}

function showKinds(): void {
  kinds.replaceChildren(
    ...PLAYERS.map((each) => {
      const made = button(each.name, `Stand at ${each.name}`, () => {
        limits = each;
        if (stick) void insert(stick).catch(tell);
        showKinds();
      });
      made.ariaPressed = String(each === limits);
      return made;
    }),
    element("p", {
      className: "small",
      textContent: "Stand-ins for standalone players. They read the stick, and nothing else.",
    }),
  );
}

async function showSlots(): Promise<void> {
  const found = await readSlots();
  browser.showSlots(found);
  const readable = found.filter((slot) => !slot.problem);
  if (readable.length === 1 && readable[0] && !index) await insert(readable[0].name);
}

async function insert(wanted: string): Promise<void> {
  stick = wanted;
  index = await readIndex(wanted);
  player = withChanges(index, limits.name, await readChanges(wanted));
  message.textContent = player
    ? ""
    : `This stick was packed for ${index.players.map(({ profile }) => profile).join(" and ")}, not for ${limits.name}.`;
  document.body.style.filter = `brightness(${brightnessOf(settings())})`;
  const range = rangeOf(settings());
  Object.assign(slide, { min: String(1 - range), max: String(1 + range), value: "1" });
  deck.setRate(1);
  await deck.holdKey(holdsKey(settings()));
  browser.show(player, limits);
  showWords();
}

function showWords(): void {
  cueButtonHere.textContent = word("Cue here");
  loopButton.textContent = word(deck.loop ? "Leave the loop" : "Loop");
  slideSays.textContent = deck.track?.bpm
    ? `${(deck.track.bpm * deck.rate).toFixed(2)} bpm, ${((deck.rate - 1) * 100).toFixed(2)} %`
    : "";
}

async function load(found: StickTrack): Promise<void> {
  message.textContent = `Loading ${found.title}…`;
  endPlay();
  [written, play] = [null, null];
  const track = seenBy(limits, found);
  const file = index?.files.find((each) => each.file === track.file);
  if (!file) throw new Error(`${track.title} is not on the stick.`);
  await deck.load(stick, track, file, limits.levels);
  overview = limits.waveforms && track.waveform ? parseOverview(await readFile(stick, track.waveform)) : null;
  whole.hidden = !overview;
  deck.seek(startOf(settings(), track));
  last_s = deck.position();
  name.textContent = track.title;
  const level = limits.levels && file.gain_db ? `${file.gain_db.toFixed(1)} dB` : "";
  const bpm = track.bpm && `${track.bpm.toFixed(2)} bpm`;
  const says = [track.artist, bpm, track.key, clock(track.duration_s), level];
  facts.textContent = says.filter(Boolean).join("  ·  ");
  picture.hidden = track.picture === null;
  if (track.picture) picture.src = fileUrl(stick, track.picture);
  message.textContent = "";
  routes.hidden = !track.routes.length;
  routes.replaceChildren(
    element("option", { textContent: "the whole track", value: "" }),
    ...track.routes.map((route) => element("option", { textContent: route.name, value: route.name })),
  );
  showTrack();
}

/** What of the loaded track can be changed. */
function showTrack(): void {
  const track = deck.track;
  if (!track) return;
  for (const each of [cueButtonHere, gridEarlier, gridLater]) each.disabled = !limits.writesBack;
  cues.replaceChildren(...track.cues.map(cueButton));
  if (!track.cues.length)
    cues.replaceChildren(element("p", { className: "small", textContent: "No cues are set on this track." }));
  stars.replaceChildren(
    ...[1, 2, 3, 4, 5].map((count) => {
      const made = button(
        count <= track.stars ? "★" : "☆",
        `${count} stars`,
        () => void rate(count).catch(tell),
      );
      made.disabled = !limits.writesBack;
      return made;
    }),
  );
  showWords();
}

function cueButton(cue: StickCue, place: number): HTMLElement {
  const label = cue.label || (cue.length_s ? "Loop" : "Cue");
  const sign = cue.pad ? String(cue.pad) : (cue.role?.slice(0, 1).toUpperCase() ?? "•");
  const go = element(
    "button",
    {
      type: "button",
      className: `cue ${cue.colour}`,
      data: { cue: label, position: String(cue.position_s) },
      title: place < 9 ? `Play from here (${place + 1})` : "Play from here",
      onclick: () => goTo(cue),
    },
    element("b", { textContent: sign }),
    element("span", { textContent: label }),
    element("i", { textContent: clock(cue.position_s) }),
  );
  if (!limits.writesBack) return go;
  const move = button("here", `Move “${label}” to here`, () => void moveCue(cue).catch(tell), {
    move: label,
  });
  const drop = button("×", `Take “${label}” away`, () => void dropCue(cue).catch(tell), { drop: label });
  return element("div", { className: "with-tools" }, go, move, drop);
}

function goTo(cue: StickCue): void {
  deck.setLoop(cue.length_s ? { start_s: cue.position_s, end_s: cue.position_s + cue.length_s } : null);
  last_s = cue.position_s;
  deck.play(cue.position_s);
  showWords();
}

function toggle(): void {
  if (!deck.playing) return deck.play();
  deck.stop();
  endPlay();
}

/** The beat next to a time, on the grid that the player sees. */
function onBeat(at_s: number): number {
  const [anchor] = deck.track?.anchors ?? [];
  if (!anchor) return at_s;
  const beat_s = 60 / (deck.track?.bpm ?? anchor.bpm);
  return Math.max(0, anchor.time + Math.round((at_s - anchor.time) / beat_s) * beat_s);
}

function toggleLoop(): void {
  const bpm = deck.track?.bpm;
  if (deck.loop || !bpm) deck.setLoop(null);
  else {
    const start_s = onBeat(deck.position());
    deck.setLoop({ start_s, end_s: start_s + (loopBeats(settings()) * 60) / bpm });
  }
  showWords();
}

async function changeCues(after: (cues: StickCue[]) => StickCue[]): Promise<void> {
  const track = deck.track;
  if (!track || !index || !player || !limits.writesBack) return;
  const before = track.cues;
  const now = after(structuredClone(before)).slice(0, limits.places);
  await change(stick, index, player, { what: "cues", track: track.id, cues: now, before });
  track.cues = now;
  showTrack();
}

async function setCue(length_s: number | null): Promise<void> {
  if ((deck.track?.cues.length ?? 0) >= limits.places)
    throw new Error(`All ${limits.places} places are taken: take a cue away first.`);
  await changeCues((all) => withCue(all, deck.playing ? onBeat(deck.position()) : deck.position(), length_s));
}
const moveCue = (cue: StickCue) =>
  changeCues((all) =>
    all
      .map((each) => (each.position_s === cue.position_s ? { ...each, position_s: deck.position() } : each))
      .sort((a, b) => a.position_s - b.position_s),
  );
const dropCue = (cue: StickCue) =>
  changeCues((all) => all.filter((each) => each.position_s !== cue.position_s));

/** Puts a track of a list a place higher. */
async function raise(list: StickList, id: string): Promise<void> {
  const at = list.tracks.indexOf(id);
  if (at < 1 || !index || !player) return;
  const tracks = list.tracks.filter((each) => each !== id);
  tracks.splice(at - 1, 0, id);
  await change(stick, index, player, { what: "list", list: list.id, tracks });
  browser.draw();
}

async function nudge(by_s: number): Promise<void> {
  const track = deck.track;
  if (!track?.anchors.length || !index || !player || !limits.writesBack) return;
  const anchors = nudged(track.anchors, by_s);
  const beats_per_bar = track.beats_per_bar ?? 4;
  await change(stick, index, player, { what: "grid", track: track.id, anchors, beats_per_bar });
  track.anchors = anchors;
}

async function rate(count: number): Promise<void> {
  const track = deck.track;
  if (!track || !index || !player) return;
  const wanted = track.stars === count ? count - 1 : count;
  await change(stick, index, player, { what: "stars", track: track.id, stars: wanted });
  track.stars = wanted;
  showTrack();
}

function writeDown(): void {
  const { track, begunAt } = deck;
  if (!track || !begunAt || track === written || deck.heard_s() < PLAYED_S) return;
  written = track;
  play = { play: crypto.randomUUID(), track: track.id, began_at: begunAt.toISOString() };
  endPlay();
}

/** A line on the stick. When the play ends it is written anew, for now it is known how long it was heard. */
function endPlay(): void {
  if (play) void writeLine(stick, "plays", { ...play, heard_s: deck.heard_s() }).catch(tell);
}

/** Loops that engage do so when they are reached. */
function engage(): void {
  const now = deck.position();
  const reached = deck.track?.cues.find(
    (cue) => cue.engages && cue.length_s !== null && last_s < cue.position_s && now >= cue.position_s,
  );
  if (deck.playing && reached?.length_s && !deck.loop && now - last_s < 1) {
    deck.setLoop({ start_s: reached.position_s, end_s: reached.position_s + reached.length_s });
    showWords();
  }
  last_s = now;
}

const KEYS: Record<string, () => void> = {
  " ": toggle,
  c: () => cueButtonHere.click(),
  l: toggleLoop,
  "[": () => gridEarlier.click(),
  "]": () => gridLater.click(),
  "/": () => browser.find.focus(),
};

window.addEventListener("keydown", (event) => {
  const typing = event.target instanceof HTMLInputElement && event.target.type === "search";
  if (typing && event.key === "Escape") browser.find.blur();
  if (typing || event.ctrlKey || event.altKey || event.metaKey) return;
  const cue = deck.track?.cues[Number(event.key) - 1];
  const act = KEYS[event.key] ?? (cue && (() => goTo(cue)));
  if (!act) return;
  event.preventDefault();
  act();
});
slide.oninput = () => {
  deck.setRate(Number(slide.value));
  showWords();
};
whole.onclick = (event) => {
  if (deck.track) deck.seek((event.offsetX / whole.clientWidth) * deck.track.duration_s);
};
routes.onchange = () => {
  deck.jumps = deck.track?.routes.find((route) => route.name === routes.value)?.jumps ?? [];
  if (deck.playing) deck.play();
};
window.addEventListener("pagehide", endPlay);
window.addEventListener("focus", () => void showSlots().catch(tell));

function draw(): void {
  requestAnimationFrame(draw);
  writeDown();
  engage();
  playButton.disabled = !deck.track;
  loopButton.disabled = !deck.track;
  playButton.textContent = word(deck.playing ? "Stop" : "Play");
  time.textContent = clock(Math.max(0, deck.position()));
  time.dataset["seconds"] = deck.position().toFixed(4);
  if (deck.track && deck.buffer)
    drawStrip(
      strip,
      deck.track,
      deck.buffer.getChannelData(0),
      deck.buffer.sampleRate,
      deck.position(),
      settings()["direction"] === "to the right",
    );
  if (deck.track && overview) drawOverview(whole, deck.track, overview, deck.position());
}

showKinds();
showSlots().catch(tell);
draw();
