"""A step of the tempo at a break without drums: at which end it lies cannot be heard, so it can be moved to
the other.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm.onset_times import OnsetTimes
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap, checked_bpm

# A drum is heard on a beat by an attack so near, and so strong above the bass: there chords are soft.
NEAR_S, LEAST_HIGH = 0.045, 0.5
LEAST_BEATS, MOST_BEATS = 8, 400
# Less of a tempo is no step.
LEAST_STEP = 0.001
# Beats of a break make whole bars where the tempo is then no further off.
WHOLE_BARS_WITHIN = 0.02


def to_other_end(tempo_map: TempoMap, onsets: OnsetTimes, time_s: float) -> TempoMap:
    """Move the step of the tempo that is nearest to a time to the other end of its break. Holds the beats on
    both sides of the break in time.

    Raises:
        TempoMapError: if there is no step, or no break at it.
    """
    step = _nearest_step(tempo_map, time_s)
    first, last = _break_at(tempo_map, onsets, step)
    start_s, end_s = (float(tempo_map.time_at(beat)) for beat in (first, last))
    before, after = _bpm(tempo_map, first - 1), _bpm(tempo_map, last)
    if first < step.beat < last:
        is_late = step.time_s > (start_s + end_s) / 2
    else:
        within = 60.0 * (last - first) / (end_s - start_s)
        is_late = abs(within - before) <= abs(within - after)
    wanted = after if is_late else before
    count = _beats((end_s - start_s) * wanted / 60.0, last - first, tempo_map.beats_per_bar)
    bpm = checked_bpm(60.0 * count / (end_s - start_s))
    moved_by = first + count - last
    anchors = (
        *(anchor for anchor in tempo_map.anchors if anchor.beat < first),
        Anchor(start_s, first, bpm),
        Anchor(end_s, first + count, after),
        *(replace(a, beat=a.beat + moved_by) for a in tempo_map.anchors if a.beat > last),
    )
    return replace(tempo_map, anchors=anchors)


def _nearest_step(tempo_map: TempoMap, time_s: float) -> Anchor:
    steps = [
        anchor
        for anchor in tempo_map.anchors[1:]
        if abs(_bpm(tempo_map, anchor.beat) / _bpm(tempo_map, anchor.beat - 1) - 1.0) > LEAST_STEP
    ]
    if tempo_map.kind != "stepped" or not steps:
        raise TempoMapError("This grid has no step of the tempo that could lie elsewhere.")
    return min(steps, key=lambda step: abs(step.time_s - time_s))


def _break_at(tempo_map: TempoMap, onsets: OnsetTimes, step: Anchor) -> tuple[float, float]:
    """The beat after the last with drums before the break that a step lies at, and the first with drums after
    it.
    """
    before, last = (_first_heard(tempo_map, onsets, step.beat, way) for way in (-1, 1))
    first = min(before + 1.0, step.beat)
    if last - first < LEAST_BEATS:
        raise TempoMapError(f"At the step at {step.time_s:.1f} s there is no break without drums.")
    return first, last


def _first_heard(tempo_map: TempoMap, onsets: OnsetTimes, beat: float, way: int) -> float:
    """The nearest beat, from one on in a direction, with drums on it and on the one behind it; the beat
    itself if there is none.
    """
    beats = beat + way * np.arange(MOST_BEATS)
    heard = _is_heard(onsets, tempo_map.time_at(beats))
    both = np.flatnonzero(heard[:-1] & heard[1:])
    return float(beats[both[0]]) if len(both) else beat


def _is_heard(onsets: OnsetTimes, times_s: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Whether there are drums at each of some times."""
    drums = onsets.times_s[onsets.high >= LEAST_HIGH]
    ends = np.searchsorted(drums, [times_s - NEAR_S, times_s + NEAR_S])
    return np.asarray(ends[1] > ends[0])


def _beats(count: float, present: float, beats_per_bar: int) -> float:
    """How many beats a break has by a tempo: so many that the bars after it begin where they did, if that
    hardly changes the tempo.
    """
    apart = round((count - present) / beats_per_bar) * beats_per_bar
    whole = present + apart
    return whole if whole > 0 and abs(whole / count - 1.0) <= WHOLE_BARS_WITHIN else float(round(count))


def _bpm(tempo_map: TempoMap, beat: float) -> float:
    """The tempo of the beat that begins there."""
    return 60.0 / float(tempo_map.time_at(beat + 1.0) - tempo_map.time_at(beat))
