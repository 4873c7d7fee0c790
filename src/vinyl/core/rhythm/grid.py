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
from vinyl.core.rhythm.onset import Onsets
from vinyl.core.rhythm.tempo import TempoEstimate, estimate_tempo
from vinyl.core.rhythm.tempo_map import MAX_BPM, MIN_BPM, Anchor, Kind, TempoMap
from vinyl.core.tonal.chroma import Chroma

STEADY_SPREAD_S = 0.004
LOOSE_SPREAD_S = 0.015
EARLIEST_S = 0.03
NO_REPETITION = 0.05
WEAK_REPETITION = 0.18
LEAST_CLARITY = 0.08
LEAST_BAR_CLARITY = 0.3
COURSE_DOUBT = {"steady": 0.0, "stepped": 0.2, "elastic": 0.12}

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class GridEstimate:
    """A tempo map, how far to doubt it (0 sure, 1 a guess), and why, in words."""

    tempo_map: TempoMap
    doubt: float
    reasons: tuple[str, ...]


def estimate_grid(
    onsets: Onsets,
    chroma: Chroma,
    duration_s: float,
    window_bpm: tuple[float, float] | None = None,
    wanted: Kind | None = None,
) -> GridEstimate | None:
    """The grid that fits a track best, of the kind wanted if there is one, or None where nothing repeats."""
    if duration_s < 4.0 or (not onsets.low.any() and not onsets.mid.any() and not onsets.high.any()):
        return None
    tempo = estimate_tempo(onsets, window_bpm)
    if tempo.repetition < NO_REPETITION:
        return None
    course = _within_limits(find_course(onsets, tempo, duration_s, window_bpm, wanted))
    slots = _slots(course, duration_s)
    if len(slots) < 16:
        return None
    bars = find_bars(onsets, chroma, course.time_at(slots), course.fit.beat_share, _steps(course, slots))
    try:
        tempo_map = _tempo_map(course, float(slots[bars.first_slot]), bars.beats_per_bar)
    except TempoMapError:
        return None  # a course that jumps about so much is no beat
    return GridEstimate(tempo_map, *_doubt(tempo, course, bars))


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


def _doubt(tempo: TempoEstimate, course: Course, bars: BarFit) -> tuple[float, tuple[str, ...]]:
    reasons, fit = [], course.fit
    drift = (
        float(np.clip((fit.spread_s - STEADY_SPREAD_S) / (LOOSE_SPREAD_S - STEADY_SPREAD_S), 0, 1))
        if course.kind == "steady"
        else 0.0
    )
    if drift > 0.2:
        reasons.append(f"the tempo does not hold: attacks stray by {fit.spread_s * 1000:.0f} ms")
    if course.held < LEAST_HELD:
        drift = max(drift, 1 - course.held)
        reasons.append(f"the grid fits only {course.held:.0%} of the attacks")
    if course.kind == "stepped":
        count = len(course.numbers) - 2
        reasons.append(
            "the tempo takes a step: check where"
            if count == 1
            else f"the tempo takes {count} steps: check where"
        )
    elif course.kind == "elastic":
        reasons.append("the tempo moves with the player")
    octave = float(np.clip(1 - tempo.clarity / (3 * LEAST_CLARITY), 0, 1))
    if tempo.clarity < LEAST_CLARITY:
        reasons.append(f"{tempo.second_bpm:.0f} bpm fits almost as well")
    bar = float(np.clip(1 - bars.clarity / (2 * LEAST_BAR_CLARITY), 0, 1))
    if bars.clarity < LEAST_BAR_CLARITY:
        reasons.append("the bar start is not clear")
    weak = float(np.clip((WEAK_REPETITION - tempo.repetition) / (WEAK_REPETITION - NO_REPETITION), 0, 1))
    if weak > 0:
        reasons.append("the beat is hardly there")
    doubt = 1 - (1 - COURSE_DOUBT[course.kind]) * (1 - 0.9 * drift) * (1 - 0.6 * octave) * (1 - 0.5 * bar) * (
        1 - 0.8 * weak
    )
    return round(float(doubt), 3), tuple(reasons)
