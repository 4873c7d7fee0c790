"""Beatgrids for libraries that keep few anchors: one every some bars, and how far off that is."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np

from vinyl.core.rhythm.tempo_map import Anchor, TempoMap


def thinned(tempo_map: TempoMap, every_bars: int) -> TempoMap:
    """A grid with an anchor every some bars between its first and its last anchor, which both stay."""
    first, last = tempo_map.anchors[0], tempo_map.anchors[-1]
    span = every_bars * tempo_map.beats_per_bar
    count = max(1, math.ceil((last.beat - first.beat) / span - 1e-9))
    beats = [first.beat + span * number for number in range(count)] + [last.beat]
    times = tempo_map.time_at(beats)
    pairs = list(zip(times.tolist(), beats, strict=True))
    tempi = [(beat - before) / (time - at) * 60.0 for (at, before), (time, beat) in pairwise(pairs)]
    anchors = [Anchor(time, beat, bpm) for (time, beat), bpm in zip(pairs, [*tempi, last.bpm], strict=True)]
    return TempoMap(tuple(anchors), tempo_map.beats_per_bar, tempo_map.phrase_bars)


def worst_error_s(tempo_map: TempoMap, other: TempoMap, duration_s: float) -> float:
    """How far the beats of one grid lie from the same beats of another at most, within a track."""
    one, two = tempo_map.anchors[0], other.anchors[0]
    if len(tempo_map.anchors) == len(other.anchors) == 1 and (one.beat, one.bpm) == (two.beat, two.bpm):
        return abs(one.time_s - two.time_s)
    first, last = tempo_map.beat_at([0.0, max(duration_s, 1.0)])
    inner = [anchor.beat for anchor in tempo_map.anchors if first <= anchor.beat <= last]
    beats = np.concatenate([np.arange(math.ceil(first), math.floor(last) + 1), inner])
    if not beats.size:
        return 0.0
    return float(np.max(np.abs(tempo_map.time_at(beats) - other.time_at(beats))))
