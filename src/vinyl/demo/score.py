"""From a song's data to its notes: sections in 8-bar phrases, patterns, chords and a melody."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from vinyl.core.rhythm.tempo_map import Anchor, TempoMap
from vinyl.demo.scenario import Song
from vinyl.demo.styles import STYLES, Style

PHRASE_BARS = 8
TONICS = {
    "C": 0,
    "C#": 1,
    "Db": 1,
    "D": 2,
    "Eb": 3,
    "E": 4,
    "F": 5,
    "F#": 6,
    "G": 7,
    "Ab": 8,
    "A": 9,
    "Bb": 10,
    "B": 11,
}
SCALES = {"major": (0, 2, 4, 5, 7, 9, 11), "minor": (0, 2, 3, 5, 7, 8, 10)}
PROGRESSIONS = {
    "major": ((0, 3, 0, 4), (0, 4, 5, 3), (0, 3, 4, 0), (0, 5, 3, 4)),
    "minor": ((0, 5, 2, 6), (0, 3, 5, 4), (0, 6, 5, 6), (0, 3, 0, 6), (0, 0, 5, 6)),
}
LAYERS = {
    "intro": frozenset({"drums"}),
    "main": frozenset({"drums", "bass", "chords", "lead"}),
    "break": frozenset({"chords", "pads", "lead"}),
    "build": frozenset({"build", "chords", "pads"}),
    "outro": frozenset({"drums", "bass"}),
    "ambient": frozenset({"pads", "lead"}),
}


class Note(NamedTuple):
    """One sound: bus, instrument, pitch (None for drums), beat, length in beats, gain, pan -1 to 1."""

    bus: str
    instrument: str
    midi: int | None
    beat: float
    beats: float
    gain: float
    pan: float


@dataclass(frozen=True, slots=True)
class Section:
    label: str
    first_bar: int
    bars: int


@dataclass(frozen=True, slots=True)
class Score:
    """A song ready to be played: its true tempo map, sections and notes."""

    song: Song
    style: Style
    tempo_map: TempoMap
    sections: tuple[Section, ...]
    notes: tuple[Note, ...]
    jitter_s: float

    @property
    def end_beat(self) -> int:
        last = self.sections[-1]
        return (last.first_bar + last.bars) * self.tempo_map.beats_per_bar


def write_score(song: Song, style: Style | None = None) -> Score:
    """Compose a song from its seed, in the style it names or in one that is given."""
    style = style or STYLES[song.style]
    random = np.random.default_rng(song.seed)
    sections = _plan(song, style)
    bars = sections[-1].first_bar + sections[-1].bars
    notes: list[Note] = []
    for section in sections:
        layers = LAYERS[section.label]
        notes += _drums(style, section, layers, random)
        notes += _bass(song, style, section, layers, random)
        notes += _chords(song, style, section, layers)
        notes += _lead(song, style, section, layers)
    return Score(
        song,
        style,
        _tempo_map(song, style, bars, random),
        sections,
        tuple(notes),
        0.004 if style.live else 0.0,
    )


def _plan(song: Song, style: Style) -> tuple[Section, ...]:
    phrase_s = PHRASE_BARS * style.beats_per_bar * 60.0 / _mean_bpm(song, style)
    count = max(8, math.ceil(song.seconds / phrase_s))
    edge = max(1, round(count / 7))
    first = max(2, round(count * 0.28))
    parts = [("intro", edge), ("main", first), ("break", 1), ("build", 1)]
    if style.ambient_s:
        parts.insert(0, ("ambient", math.ceil(style.ambient_s / phrase_s)))
    used = sum(size for _, size in parts) + edge
    parts += [("main", max(2, count - used)), ("outro", edge)]
    sections, bar = [], 0
    for label, size in parts:
        sections.append(Section(label, bar, size * PHRASE_BARS))
        bar += size * PHRASE_BARS
    return tuple(sections)


def _mean_bpm(song: Song, style: Style) -> float:
    return (song.bpm + (style.ends_at_bpm or song.bpm)) / 2


def _tempo_map(song: Song, style: Style, bars: int, random: np.random.Generator) -> TempoMap:
    """Steady, with one step in the middle phrase, or with the slow drift of a human drummer."""
    metre = style.beats_per_bar
    start = Anchor(song.lead_in_s, 0.0, song.bpm)
    if style.ends_at_bpm:
        beat = bars // 2 // PHRASE_BARS * PHRASE_BARS * metre
        step = Anchor(song.lead_in_s + beat * 60.0 / song.bpm, float(beat), style.ends_at_bpm)
        return TempoMap((start, step), metre)
    if not style.live:
        return TempoMap((start,), metre)
    wander = np.cumsum(random.normal(0, 0.0022, bars + 1))
    wander -= np.linspace(0, wander[-1], bars + 1)
    tempi = song.bpm * (1 + np.clip(wander, -0.02, 0.02))
    times = song.lead_in_s + np.concatenate([[0.0], np.cumsum(metre * 60.0 / tempi[:-1])])
    return TempoMap(
        tuple(
            Anchor(float(t), float(i * metre), float(b))
            for i, (t, b) in enumerate(zip(times, tempi, strict=True))
        ),
        metre,
    )


def _drums(style: Style, section: Section, layers: frozenset[str], random: np.random.Generator) -> list[Note]:
    if "build" in layers:
        return _build_up(style, section)
    if "drums" not in layers:
        return []
    notes = []
    for bar in range(section.bars):
        beat = float((section.first_bar + bar) * style.beats_per_bar)
        fill = bar % PHRASE_BARS == PHRASE_BARS - 1
        for name, pattern in style.drums.items():
            if section.label == "intro" and bar < PHRASE_BARS and name in style.late:
                continue
            notes += _steps(name, pattern[bar % len(pattern)], beat, style, random)
        if fill:
            notes += [
                Note("drums", "snare", None, beat + style.beats_per_bar - 1 + k / 4, 0, 0.25 + 0.1 * k, 0)
                for k in range(4)
            ]
    notes.append(Note("drums", "crash", None, float(section.first_bar * style.beats_per_bar), 0, 0.5, 0.1))
    return notes


def _steps(name: str, pattern: str, beat: float, style: Style, random: np.random.Generator) -> list[Note]:
    """One bar of one drum: a character a sixteenth, "X" loud, "x" soft."""
    pan = {"shaker": 0.35, "conga": -0.4, "hat": 0.2, "open": -0.15}.get(name, 0.0)
    notes = []
    for step, sign in enumerate(pattern):
        if sign == ".":
            continue
        late = style.swing / 4 if step % 2 else 0.0
        gain = (0.9 if sign == "X" else 0.5) * (1 + 0.06 * random.standard_normal())
        notes.append(Note("drums", name, None, beat + step / 4 + late, 0, gain, pan))
    return notes


def _build_up(style: Style, section: Section) -> list[Note]:
    first, beats = section.first_bar * style.beats_per_bar, section.bars * style.beats_per_bar
    notes = []
    for beat in range(beats):
        parts = 1 if beat < beats // 2 else 2 if beat < beats * 3 // 4 else 4
        gain = 0.2 + 0.5 * beat / beats
        notes += [Note("drums", "snare", None, first + beat + k / parts, 0, gain, 0) for k in range(parts)]
    return notes


def _pitch(song: Song, degree: int, octave: int) -> int:
    """MIDI number of a scale degree (0 is the tonic), octave 4 holding middle C."""
    tonic, mode = song.key.split()
    scale = SCALES[mode]
    return 12 * (octave + 1) + TONICS[tonic] + scale[degree % 7] + 12 * (degree // 7)


def _root(song: Song, style: Style, bar: int) -> int:
    """Scale degree of the chord in a bar."""
    choices = PROGRESSIONS[song.key.split()[1]]
    return choices[song.seed % len(choices)][bar // style.chord_bars % 4]


def _bass(
    song: Song, style: Style, section: Section, layers: frozenset[str], random: np.random.Generator
) -> list[Note]:
    if "bass" not in layers:
        return []
    notes = []
    for bar in range(section.first_bar, section.first_bar + section.bars):
        degree = _root(song, style, bar)
        for start, length, move in style.bass:
            midi = _pitch(song, degree + move, 2)
            midi -= 12 if midi > 47 else 0
            notes.append(
                Note("bass", style.bass_sound, midi, bar * style.beats_per_bar + start, length, 0.75, 0)
            )
    return notes


def _chords(song: Song, style: Style, section: Section, layers: frozenset[str]) -> list[Note]:
    notes = []
    for bar in range(section.first_bar, section.first_bar + section.bars):
        degree, beat = _root(song, style, bar), bar * style.beats_per_bar
        voices = [_pitch(song, degree + step, 4) for step in (0, 2, 4, 6)[: style.voices]]
        voices = [midi - 12 if midi > 71 else midi for midi in voices]
        if "chords" in layers:
            hits = style.chords
            notes += [
                Note("music", style.chord_sound, m, beat + s, n, 0.5, (i - 1) * 0.3)
                for s, n in hits
                for i, m in enumerate(voices)
            ]
        if "pads" in layers and bar % style.chord_bars == 0:
            length = style.beats_per_bar * style.chord_bars
            notes += [
                Note("music", "strings", m, beat, length, 0.55, (i - 1) * 0.5) for i, m in enumerate(voices)
            ]
            notes.append(Note("music", "strings", _pitch(song, degree, 2), beat, length, 0.5, 0))
    return notes


def _lead(song: Song, style: Style, section: Section, layers: frozenset[str]) -> list[Note]:
    """A two-bar motif over each chord, second half varied, resting in the first half of a main part."""
    if "lead" not in layers or not style.lead_sound:
        return []
    random = np.random.default_rng(song.seed + 1000)
    steps = random.choice(style.beats_per_bar * 4, size=5, replace=False)
    moves = random.choice((0, 1, 2, 4, 4, 2, 7), size=(2, 5))
    notes = []
    for bar in range(section.first_bar, section.first_bar + section.bars):
        within = bar - section.first_bar
        if section.label == "main" and within < section.bars // 2:
            continue
        degree = _root(song, style, bar)
        for step, move in zip(sorted(steps), moves[bar // 4 % 2], strict=True):
            midi = _pitch(song, degree + int(move), 5)
            pan = 0.25 if step % 2 else -0.25
            notes.append(
                Note("lead", style.lead_sound, midi, bar * style.beats_per_bar + step / 4, 0.9, 0.42, pan)
            )
    return notes
