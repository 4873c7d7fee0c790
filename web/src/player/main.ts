/** The stand-in player: reads a stick and plays it. */
import "../fonts";
import "./player.css";
import { Deck } from "./deck";
import {
  beatsOf,
  fileUrl,
  readIndex,
  readSlots,
  type StickCue,
  type StickIndex,
  type StickTrack,
} from "./stick";

const deck = new Deck();
const root = document.getElementById("player") ?? document.body;
let stick = "";
let index: StickIndex | null = null;
let crate = 0;

function element<K extends keyof HTMLElementTagNameMap>(
  tag: K,
  props: Partial<HTMLElementTagNameMap[K]> & { data?: Record<string, string> } = {},
  ...children: (Node | string)[]
): HTMLElementTagNameMap[K] {
  const { data, ...rest } = props;
  const made = Object.assign(document.createElement(tag), rest);
  Object.assign(made.dataset, data);
  made.append(...children);
  return made;
}

const clock = (s: number): string => `${Math.floor(s / 60)}:${(s % 60).toFixed(1).padStart(4, "0")}`;

const slots = element("ul", { className: "slots" });
const crates = element("div", { className: "crates" });
const tracks = element("ol", { className: "tracks" });
const name = element("h1", { textContent: "Nothing loaded" });
const facts = element("p", { className: "facts" });
const picture = element("img", { alt: "", hidden: true });
const strip = element("canvas", { className: "strip" });
const time = element("output", { className: "time", textContent: "0:00.0" });
const playButton = element("button", {
  type: "button",
  textContent: "Play",
  disabled: true,
  onclick: () => {
    if (!deck.playing) return deck.play();
    deck.stop();
    writeLine();
  },
});
const cues = element("div", { className: "cues" });
const message = element("p", { className: "message", role: "status" });

root.append(
  element(
    "aside",
    {},
    element("h2", { textContent: "Quay One" }),
    element("p", {
      className: "small",
      textContent: "A stand-in for a standalone player. It reads the stick, and nothing else.",
    }),
    slots,
    crates,
    tracks,
  ),
  element(
    "main",
    {},
    element("header", {}, picture, element("div", {}, name, facts)),
    strip,
    element("div", { className: "row" }, playButton, time),
    cues,
    message,
  ),
);

async function showSlots(): Promise<void> {
  const found = await readSlots();
  slots.replaceChildren(
    ...found.map((slot) =>
      element(
        "li",
        {},
        element("button", {
          type: "button",
          textContent: slot.name,
          disabled: slot.problem !== null,
          data: { stick: slot.name },
          onclick: () => void insert(slot.name).catch(say),
        }),
        element("span", { className: "small", textContent: slot.problem ?? "" }),
      ),
    ),
  );
  if (!found.length)
    slots.replaceChildren(
      element("li", {
        className: "small",
        textContent: "No stick is in the player. Pack one in Vinyl and eject it.",
      }),
    );
  const readable = found.filter((slot) => !slot.problem);
  if (readable.length === 1 && readable[0] && !index) await insert(readable[0].name);
}

async function insert(wanted: string): Promise<void> {
  stick = wanted;
  index = await readIndex(wanted);
  crate = 0;
  showCrates();
}

function showCrates(): void {
  if (!index) return;
  crates.replaceChildren(
    ...index.crates.map((each, i) =>
      element("button", {
        type: "button",
        textContent: each.name,
        ariaPressed: String(i === crate),
        data: { crate: each.name },
        onclick: () => {
          crate = i;
          showCrates();
        },
      }),
    ),
  );
  const byId = new Map(index.tracks.map((track) => [track.id, track]));
  const wanted = (index.crates[crate]?.tracks ?? []).flatMap((id) => byId.get(id) ?? []);
  tracks.replaceChildren(
    ...wanted.map((track) =>
      element(
        "li",
        {},
        element(
          "button",
          { type: "button", data: { track: track.title }, onclick: () => void load(track).catch(say) },
          element("b", { textContent: track.title }),
          element("span", { textContent: track.artist }),
          element("i", { textContent: track.bpm?.toFixed(1) ?? "" }),
        ),
      ),
    ),
  );
}

async function load(track: StickTrack): Promise<void> {
  message.textContent = `Loading ${track.title}…`;
  playButton.disabled = true;
  writeLine();
  [written, play] = [null, null];
  await deck.load(stick, track);
  name.textContent = track.title;
  facts.textContent = [
    track.artist,
    track.bpm && `${track.bpm.toFixed(2)} bpm`,
    track.key,
    clock(track.duration_s),
  ]
    .filter(Boolean)
    .join("  ·  ");
  picture.hidden = track.picture === null;
  if (track.picture) picture.src = fileUrl(stick, track.picture);
  playButton.disabled = false;
  message.textContent = "";
  cues.replaceChildren(...track.cues.map(cueButton));
  if (!track.cues.length)
    cues.replaceChildren(element("p", { className: "small", textContent: "No cues are set on this track." }));
}

function cueButton(cue: StickCue): HTMLElement {
  const label = cue.label || (cue.length_s ? "Loop" : "Cue");
  const sign = cue.pad ? String(cue.pad) : (cue.role?.slice(0, 1).toUpperCase() ?? "•");
  return element(
    "button",
    {
      type: "button",
      className: `cue ${cue.colour}`,
      data: { cue: label, position: String(cue.position_s) },
      onclick: () => deck.play(cue.position_s),
    },
    element("b", { textContent: sign }),
    element("span", { textContent: label }),
    element("i", { textContent: clock(cue.position_s) }),
  );
}

function say(error: unknown): void {
  message.textContent = error instanceof Error ? error.message : String(error);
}

/** After so many seconds a track counts as played: that is written down on the stick. */
const PLAYED_S = 10;
let written: StickTrack | null = null;
let play: { play: string; track: string; began_at: string } | null = null;

function writeDown(): void {
  const { track, begunAt } = deck;
  if (!track || !begunAt || track === written || deck.heard_s() < PLAYED_S) return;
  written = track;
  play = { play: crypto.randomUUID(), track: track.id, began_at: begunAt.toISOString() };
  writeLine();
}

/** A line on the stick. When the play ends it is written anew, for now it is known how long it was heard. */
function writeLine(): void {
  if (!play) return;
  void fetch(`/player/sticks/${encodeURIComponent(stick)}/plays`, {
    method: "POST",
    keepalive: true,
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ ...play, heard_s: deck.heard_s() }),
  }).catch(say);
}

window.addEventListener("pagehide", writeLine);

function draw(): void {
  requestAnimationFrame(draw);
  writeDown();
  playButton.textContent = deck.playing ? "Stop" : "Play";
  time.textContent = clock(Math.max(0, deck.position()));
  time.dataset["seconds"] = deck.position().toFixed(4);
  const context = strip.getContext("2d");
  if (!context || !deck.track || !deck.buffer) return;
  const { clientWidth: width, clientHeight: height } = strip;
  if (strip.width !== width || strip.height !== height) [strip.width, strip.height] = [width, height];
  drawStrip(
    context,
    width,
    height,
    deck.track,
    deck.buffer.getChannelData(0),
    deck.buffer.sampleRate,
    deck.position(),
  );
}

function drawStrip(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  track: StickTrack,
  samples: Float32Array,
  rate: number,
  now: number,
): void {
  const span = 6;
  const start = now - span / 3;
  context.fillStyle = "#0e1719";
  context.fillRect(0, 0, width, height);
  context.fillStyle = "#8fc3a8";
  for (let x = 0; x < width; x++) {
    const first = Math.round((start + (x / width) * span) * rate);
    let most = 0;
    for (let i = Math.max(0, first); i < first + (span / width) * rate; i += 4)
      most = Math.max(most, Math.abs(samples[i] ?? 0));
    context.fillRect(x, height / 2 - (most * height) / 2.3, 1, (most * height) / 1.15);
  }
  const perBar = track.beats_per_bar ?? 4;
  for (const { time: at, beat } of beatsOf(track)) {
    if (at < start || at > start + span) continue;
    const bar = beat % perBar === 0;
    context.fillStyle = bar ? "#ff7a59" : "#5c7a70";
    context.fillRect(((at - start) / span) * width - 1, 0, bar ? 2 : 1, height);
  }
  context.fillStyle = "#fff6d6";
  context.fillRect(width / 3 - 1, 0, 3, height);
}

showSlots().catch(say);
window.addEventListener("focus", () => void showSlots().catch(say));
draw();
