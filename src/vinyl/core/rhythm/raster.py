"""Bars on top of each other: the onsets of every bar as one row, so that a right grid stands in straight
stripes.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rhythm.tempo_map import TempoMap

# Columns of a row: 192 within the bar, for 48 a beat of four.
COLUMNS = 288
# Rows begin and end so much of a bar beyond it, so that they can be dragged and leaned without a gap.
MARGIN = 0.25
# A bar may begin so much of itself before the sound, or end after it.
STRAY_BARS = 0.2

Bytes = NDArray[np.uint8]


def bars_in(tempo_map: TempoMap, duration_s: float) -> range:
    """Numbers of the bars within a track, the first of them perhaps a little before its start."""
    first = math.ceil(float(tempo_map.beat_at(0.0)) / tempo_map.beats_per_bar - STRAY_BARS)
    last = math.floor(float(tempo_map.beat_at(duration_s)) / tempo_map.beats_per_bar + STRAY_BARS)
    return range(first, max(last, first + 1))


def fold_bars(onset: Bytes, rate_hz: float, tempo_map: TempoMap, duration_s: float) -> Bytes:
    """Fold one band's onset strengths (n,) at the bars of a grid.

    Returns:
        (bars, COLUMNS): row i covers bar bars_in()[i] with MARGIN of a bar on either side.
    """
    bars = np.array(bars_in(tempo_map, duration_s))
    edges = -MARGIN + np.arange(COLUMNS + 1) * (1.0 + 2.0 * MARGIN) / COLUMNS
    times = tempo_map.time_at((bars[:, None] + edges[None, :]) * tempo_map.beats_per_bar)
    steps = np.rint(times * rate_hz).astype(np.int64)
    padded = np.concatenate([onset, np.zeros(1, np.uint8)])
    inside = np.where((steps >= 0) & (steps < len(onset)), steps, len(onset))
    first, last = inside[:, :-1], np.maximum(inside[:, 1:] - 1, inside[:, :-1])
    folded: Bytes = np.maximum(padded[first], padded[np.minimum(last, len(onset))])
    return folded
