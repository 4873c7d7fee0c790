"""From onsets to a beatgrid with its doubt."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm.course import LEAST_HELD, Course, find_course
from vinyl.core.rhythm.downbeat import SLOTS_PER_BEAT, BarFit, find_bars
from vinyl.core.rhythm.elastic import even_knots
from vinyl.core.rhythm.level import Level, choose_level
from vinyl.core.rhythm.onset import OnsetEnvelopes
from vinyl.core.rhythm.tempo import TempoEstimate, estimate_tempo
from vinyl.core.rhythm.tempo_map import MAX_BPM, MIN_BPM, Anchor, Kind, TempoMap
from vinyl.core.tonal.chroma import Chroma

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Too short a track, or too few half-beats in it, says nothing about a beat.
SHORTEST_S = 4.0
LEAST_SLOTS = 16
# The bar before the first counts as the first one if it begins no earlier than this before the sound.
EARLIEST_S = 0.03
# Mean autocorrelation after 1, 2 and 4 beats: below the first nothing repeats; from the second on the beat is
# sure.
NO_REPETITION, SURE_REPETITION = 0.05, 0.18
# Root mean square of what segments of a steady track stray from its grid: from all right to all wrong.
STEADY_SPREAD_S, LOOSE_SPREAD_S = 0.004, 0.015
TOLD_DRIFT = 0.2
# How clearly the tempo has won over the next: below the first it is said; from the second on it is sure.
LEAST_CLARITY, SURE_CLARITY = 0.08, 0.24
# Below this chance the other level is offered; and two thirds or three halves, if the runner-up is so near.
TOLD_LEVEL, THIRDS, NEAR_OCTAVES = 0.9, (2 / 3, 3 / 2), 0.03
# A piece by itself has the tempo that it has in its track if that is so near (a share).
NEAR_TEMPO = 0.02
# The same as of the tempo of the bar start.
LEAST_BAR_CLARITY, SURE_BAR_CLARITY = 0.2, 0.4
# The doubt that a kind of tempo brings by itself, and the most that each thing that speaks against a grid can
# bring.
COURSE_DOUBT = {"steady": 0.0, "stepped": 0.2, "elastic": 0.06}
DRIFT_SAY, TEMPO_SAY, BAR_SAY, WEAK_SAY, UNHEARD_SAY = 0.9, 0.6, 0.5, 0.8, 0.6
# Shares of the beats of a moving tempo that can be heard: from all right to half of the grids wrong.
SURE_HEARD, LEAST_HEARD, TOLD_HEARD = 0.88, 0.65, 0.85

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class GridEstimate:
    """A tempo map, how far to doubt it (0 sure, 1 a guess), and why, in words; ``other_bpm`` is another tempo
    that may be meant.
    """

    tempo_map: TempoMap
    doubt: float
    reasons: tuple[str, ...]
    other_bpm: float | None = None


@dataclass(frozen=True, slots=True)
class _Found:
    """What a grid is made of."""

    tempo: TempoEstimate
    level: Level
    course: Course


def estimate_grid(
    onsets: OnsetEnvelopes,
    chroma: Chroma,
    duration_s: float,
    window_bpm: tuple[float, float] | None = None,
    wanted: Kind | None = None,
) -> GridEstimate | None:
    """The grid that fits a track best, of the kind wanted if there is one, or None where nothing repeats."""
    if duration_s < SHORTEST_S or (not onsets.low.any() and not onsets.mid.any() and not onsets.high.any()):
        return None
    tempo = estimate_tempo(onsets, window_bpm)
    if tempo.repetition < NO_REPETITION:
        return None
    level = choose_level(tempo, chroma, window_bpm)
    tempo = _at_level(tempo, level)
    course = find_course(onsets, tempo, duration_s, window_bpm, wanted)
    own_level = _level_of_longest(onsets, chroma, course, window_bpm) if course.kind == "stepped" else None
    if own_level is not None:
        level = own_level
        if level.factor != 1.0:
            tempo = _at_level(tempo, level)
            course = find_course(onsets, tempo, duration_s, window_bpm, wanted)
    try:
        return _grid_of(onsets, chroma, duration_s, _Found(tempo, level, _within_limits(course)))
    except TempoMapError:
        # A course that jumps about so much is none: one tempo is the better guess.
        course = find_course(onsets, tempo, duration_s, window_bpm, "steady")
        return _grid_of(onsets, chroma, duration_s, _Found(tempo, level, _within_limits(course)))


def _at_level(tempo: TempoEstimate, level: Level) -> TempoEstimate:
    return replace(tempo, bpm=tempo.bpm * level.factor, second_bpm=tempo.second_bpm * level.factor)


def _level_of_longest(
    onsets: OnsetEnvelopes, chroma: Chroma, course: Course, window_bpm: tuple[float, float] | None
) -> Level | None:
    """The level of the longest piece between two steps: what repeats in the whole track is blurred by them.
    None where the piece by itself has no such tempo.
    """
    longest = int(np.argmax(np.diff(course.times_s)))
    start_s, end_s = (max(float(time_s), 0.0) for time_s in course.times_s[longest : longest + 2])
    bpm = 60.0 * float(np.diff(course.numbers)[longest] / np.diff(course.times_s)[longest])
    near_bpm = bpm * (1.0 - NEAR_TEMPO), bpm * (1.0 + NEAR_TEMPO)
    tempo = estimate_tempo(onsets.between(start_s, end_s), near_bpm)
    if not near_bpm[0] < tempo.bpm < near_bpm[1]:
        return None
    return choose_level(tempo, chroma.between(start_s, end_s), window_bpm)


def _grid_of(onsets: OnsetEnvelopes, chroma: Chroma, duration_s: float, found: _Found) -> GridEstimate | None:
    """The grid on a course of the tempo.

    Raises:
        TempoMapError: if no grid can have such a course.
    """
    course = found.course
    slots = _slots(course, duration_s)
    if len(slots) < LEAST_SLOTS:
        return None
    bars = find_bars(onsets, chroma, course.time_at(slots), course.fit.beat_share, _steps(course, slots))
    tempo_map = _tempo_map(course, float(slots[bars.first_slot]), bars.beats_per_bar)
    return GridEstimate(tempo_map, *_doubt(found, bars), _other_bpm(found, tempo_map))


def _within_limits(course: Course) -> Course:
    """The course with its beats counted half or twice as often where its usual tempo is one that no grid may
    have.
    """
    bpm = 60.0 * float(np.median(np.diff(course.numbers) / np.diff(course.times_s)))
    octaves = 0
    if bpm > MAX_BPM:
        octaves = math.ceil(math.log2(bpm / MAX_BPM))
    elif bpm < MIN_BPM:
        octaves = -math.ceil(math.log2(MIN_BPM / bpm))
    return replace(course, numbers=course.numbers / 2.0**octaves) if octaves else course


def _slots(course: Course, duration_s: float) -> FloatArray:
    """Beat numbers of all half-beats within the track, from a whole beat on."""
    first, last = course.beat_at(np.array([0.0, duration_s]))
    slots: FloatArray = np.arange(np.ceil(first), last, 1.0 / SLOTS_PER_BEAT)
    return slots


def _steps(course: Course, slots: FloatArray) -> NDArray[np.int64]:
    """Slots where the tempo takes a step: most likely bar starts."""
    inner = course.numbers[1:-1] if course.kind == "stepped" else np.zeros(0)
    steps: NDArray[np.int64] = np.rint((inner - slots[0]) * SLOTS_PER_BEAT).astype(np.int64)
    return steps


def _tempo_map(course: Course, first: float, metre: int) -> TempoMap:
    """Anchors on the course, beat 0 being the first bar start, or the one before if that lies at the very
    start of the file.
    """
    while float(course.time_at(np.array([first - metre]))[0]) > -EARLIEST_S:
        first -= metre
    if course.kind == "steady":
        beats = np.array([first])
    elif course.kind == "stepped":
        beats = np.concatenate([[first], course.numbers[1:-1][course.numbers[1:-1] > first]])
    else:
        whole = np.arange(np.ceil(first), course.numbers[-1])
        part = first - np.floor(first)
        times = course.time_at(whole + part)
        beats = (whole + part)[even_knots(times, 0, metre)]
    times_s, after_s = course.time_at(beats), course.time_at(beats + 1.0)
    anchors = tuple(
        Anchor(float(t), float(n - first), 60.0 / float(a - t))
        for n, t, a in zip(beats, times_s, after_s, strict=True)
    )
    return TempoMap(anchors, metre)


def _other_bpm(found: _Found, tempo_map: TempoMap) -> float | None:
    """The other tempo that may be meant: half or double, or three beats for two."""
    level, tempo = found.level, found.tempo
    if level.chance < TOLD_LEVEL:
        other = tempo_map.bpm * level.other / level.factor
    elif tempo.clarity < LEAST_CLARITY:
        ratio = tempo.second_bpm / tempo.bpm
        factor = min(THIRDS, key=lambda third: abs(math.log2(ratio / third)))
        if abs(math.log2(ratio / factor)) > NEAR_OCTAVES:
            return None
        other = tempo_map.bpm * factor
    else:
        return None
    return other if MIN_BPM <= other <= MAX_BPM else None


def _doubt(found: _Found, bars: BarFit) -> tuple[float, tuple[str, ...]]:
    """All that speaks against a grid, joined like chances of which each alone would spoil it, and why."""
    tempo, level, course = found.tempo, found.level, found.course
    weak = _share(tempo.repetition, SURE_REPETITION, NO_REPETITION)
    against = (
        COURSE_DOUBT[course.kind],
        DRIFT_SAY * _drift(course),
        1.0 - level.chance,
        TEMPO_SAY * _share(tempo.clarity, SURE_CLARITY, 0.0),
        BAR_SAY * _share(bars.clarity, SURE_BAR_CLARITY, 0.0),
        WEAK_SAY * weak,
        UNHEARD_SAY * _share(course.heard, SURE_HEARD, LEAST_HEARD),
    )
    reasons = _reasons_of_course(course)
    if level.chance < TOLD_LEVEL:
        reasons.append(f"the beat may be {'half' if level.other < level.factor else 'twice'} as fast")
    if tempo.clarity < LEAST_CLARITY:
        reasons.append(f"{tempo.second_bpm:.0f} bpm fits almost as well")
    if bars.clarity < LEAST_BAR_CLARITY:
        reasons.append("the bar start is not clear")
    if weak > 0:
        reasons.append("the beat is hardly there")
    return round(1.0 - math.prod(1.0 - share for share in against), 3), tuple(reasons)


def _share(value: float, sure: float, worst: float) -> float:
    """0 where a value is sure, 1 where it is at its worst."""
    return float(np.clip((sure - value) / (sure - worst), 0.0, 1.0))


def _drift(course: Course) -> float:
    """How far what is heard strays from the course, 0 to 1."""
    strays = _strays(course)
    return max(strays, 1.0 - course.held) if course.held < LEAST_HELD else strays


def _strays(course: Course) -> float:
    return _share(course.fit.spread_s, STEADY_SPREAD_S, LOOSE_SPREAD_S) if course.kind == "steady" else 0.0


def _reasons_of_course(course: Course) -> list[str]:
    reasons = []
    if _strays(course) > TOLD_DRIFT:
        reasons.append(f"the tempo does not hold: attacks stray by {course.fit.spread_s * 1000:.0f} ms")
    if course.held < LEAST_HELD:
        reasons.append(f"the grid fits only {course.held:.0%} of the attacks")
    if course.kind == "elastic":
        reasons.append("the tempo moves with the player")
        if course.heard < TOLD_HEARD:
            reasons.append(f"{1.0 - course.heard:.0%} of the beats can hardly be heard")
    elif course.kind == "stepped":
        steps = len(course.numbers) - 2
        count = "a step" if steps == 1 else f"{steps} steps"
        reasons.append(f"the tempo takes {count}: check where")
    return reasons
