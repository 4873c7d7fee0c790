"""Pieces nobody has heard: random styles, tempi, keys and courses of tempo from a seed, for measuring the analysis."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rhythm.tempo_map import Anchor, TempoMap
from vinyl.demo.render import render
from vinyl.demo.scenario import Song
from vinyl.demo.score import TONICS, Score, write_score
from vinyl.demo.styles import STYLES, Patterns, Style

# Between which tempi the drums of a style are played.
PLAYED_BPM = {
    "house": (115, 132),
    "disco": (104, 128),
    "techno": (122, 150),
    "drum & bass": (160, 195),
    "dub": (66, 82),
    "dembow": (85, 105),
    "downtempo": (66, 100),
    "breaks": (118, 172),
    "waltz": (84, 180),
}
Course = Literal["steady", "stepped", "elastic"]
COURSES: tuple[Course, ...] = ("steady", "steady", "steady", "stepped", "elastic")
MODES = ("major", "minor", "minor")
METRES = (4, 4, 4, 4, 4, 4, 3, 5, 6, 7)
STEPS = (1.004, 1.012, 1.03, 1.08, 1.2, 0.97, 0.9, 1.26)
DRIFT = 0.0022

Random = np.random.Generator


def fresh_score(seed: int) -> Score:
    """A piece that depends on its seed alone."""
    random = np.random.default_rng(seed)
    course = COURSES[seed % len(COURSES)]
    style = _style(random, int(random.choice(METRES)) if course == "steady" else 4)
    mode = str(random.choice(MODES))
    song = _song(seed, random, float(random.uniform(82, 176)), mode)
    return _with_course(write_score(song, style), course, random)


def _song(seed: int, random: Random, bpm: float, mode: str) -> Song:
    return Song(
        title=f"Case {seed}",
        artist="",
        album="",
        year=2025,
        style="fresh",
        bpm=round(bpm, 2),
        key=f"{random.choice(list(TONICS))} {mode}",
        form="wav",
        seed=seed,
        seconds=float(random.uniform(140, 200)),
        lead_in_s=float(random.choice([0.0, 0.013, 0.4, 2.5])),
    )


def _with_course(score: Score, course: Course, random: Random) -> Score:
    return replace(
        score, tempo_map=_tempo_map(score, course, random), jitter_s=0.004 if course == "elastic" else 0.0
    )


def natural_score(seed: int) -> Score:
    """A piece whose tempo is one at which its drums are played, every fourth by a drummer."""
    random = np.random.default_rng(seed)
    name = str(random.choice(list(PLAYED_BPM)))
    style, (low, high) = (
        STYLES[name],
        (STYLES[str(other)] for other in random.choice([each for each in PLAYED_BPM if each != "waltz"], 2)),
    )
    if style.beats_per_bar == 4:
        style = _mixed(style, low, high, float(random.choice([0.0, 0.0, 0.1])), 0.0)
    song = _song(seed, random, float(random.uniform(*PLAYED_BPM[name])), str(random.choice(MODES)))
    score = write_score(song, style)
    course: Course = "elastic" if seed % 4 == 3 else "steady"
    return _with_course(score, course, random)


def only_drums(score: Score) -> Score:
    """A piece without all that has a pitch."""
    return replace(score, notes=tuple(note for note in score.notes if note.bus == "drums"))


def fresh_piece(seed: int) -> tuple[NDArray[np.float32], Score]:
    """The sound of a piece, float32 of shape (2, n) at 44.1 kHz, and the score that is its truth."""
    score = fresh_score(seed)
    return render(score), score


def _style(random: Random, metre: int) -> Style:
    """A known style with its bass, chords and sounds from others, or for an odd metre drums of its own."""
    names = [
        name
        for name, style in STYLES.items()
        if style.beats_per_bar == 4 and not style.live and not style.ends_at_bpm
    ]
    drums, low, high = (STYLES[str(name)] for name in random.choice(names, 3))
    if metre == 4:
        swing, ambient_s = float(random.choice([0.0, 0.0, 0.1])), float(random.choice([0.0, 0.0, 0.0, 25.0]))
        return _mixed(drums, low, high, swing, ambient_s)
    return replace(
        drums,
        drums=_odd_drums(random, metre),
        bass=((0.0, 0.9, 0), (metre - 1.5, 0.6, 4)),
        chords=((0.0, metre * 0.9),),
        beats_per_bar=metre,
        late=frozenset(),
        echo=False,
        ambient_s=0.0,
    )


def _mixed(drums: Style, low: Style, high: Style, swing: float, ambient_s: float) -> Style:
    """The drums of one style with the bass of another and the chords of a third."""
    return replace(
        drums,
        bass=low.bass,
        bass_sound=low.bass_sound,
        chords=high.chords,
        chord_sound=high.chord_sound,
        lead_sound=low.lead_sound,
        swing=swing,
        ambient_s=ambient_s,
        duck=0.0,
    )


def _odd_drums(random: Random, metre: int) -> Patterns:
    """Bass drum on the first beat, snares where a bar of twos and threes begins its next group."""
    groups = {3: [3], 5: [3, 2], 6: [3, 3], 7: [4, 3]}[metre]
    kick, snare = ["."] * metre * 4, ["."] * metre * 4
    kick[0] = "X"
    for start in np.cumsum([0, *groups[:-1]]):
        kick[int(start) * 4] = "X"
    for beat in range(metre):
        if kick[beat * 4] == "." and random.random() < 0.6:
            snare[beat * 4] = "x"
    snare[4 * (metre - 1)] = "X"
    return {"kick": ("".join(kick),), "snare": ("".join(snare),), "hat": ("x." * (metre * 2),)}


def _tempo_map(score: Score, course: Course, random: Random) -> TempoMap:
    start = score.tempo_map.anchors[0]
    metre = score.tempo_map.beats_per_bar
    start = Anchor(start.time_s, 0.0, start.bpm)
    if course == "steady":
        return TempoMap((start,), metre)
    if course == "stepped":
        return TempoMap(_steps(start, score.end_beat, metre, random), metre)
    return TempoMap(_drift(start, score.end_beat, metre, random), metre)


def _steps(start: Anchor, end_beat: int, metre: int, random: Random) -> tuple[Anchor, ...]:
    anchors = [start]
    count = int(random.integers(1, 4))
    for part in range(1, count + 1):
        beat = float(round(end_beat * part / (count + 1) / (8 * metre)) * 8 * metre)
        last = anchors[-1]
        time_s = last.time_s + (beat - last.beat) * 60.0 / last.bpm
        bpm = float(np.clip(last.bpm * random.choice(STEPS), 75, 185))
        if bpm != last.bpm:
            anchors.append(Anchor(time_s, beat, round(bpm, 2)))
    return tuple(anchors)


def _drift(start: Anchor, end_beat: int, metre: int, random: Random) -> tuple[Anchor, ...]:
    """A drummer: tempo that wanders a little from bar to bar and is drawn back to the start's."""
    bars = end_beat // metre
    tempo, time_s, anchors = 1.0, start.time_s, []
    for bar in range(bars + 1):
        anchors.append(Anchor(time_s, float(bar * metre), start.bpm * tempo))
        time_s += metre * 60.0 / (start.bpm * tempo)
        tempo += float(random.normal(0, DRIFT)) - 0.06 * (tempo - 1)
    return tuple(anchors)
