"""How far onsets lie from the lines of a grid, along the track."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rhythm.onset_times import OnsetTimes
from vinyl.core.rhythm.raster import bars_in
from vinyl.core.rhythm.tempo_map import TempoMap

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Windows of four bars, one every two.
WINDOW_BARS = 4
STEP_BARS = 2
# Onsets within this of a beat count, and on half-beats by this share.
REACH_S = 0.06
OFF_BEAT_SAY = 0.5
# The densest place is looked for with a kernel as wide as drums stray, every half millisecond.
KERNEL_S = 0.004
GRID_S = np.arange(-REACH_S, REACH_S + 2.5e-4, 5e-4)
# The spread is that of what lies so near to it; how clear it is, by what lies closer still.
SPREAD_S = 0.025
CLOSE_S = 0.009
# What a window must weigh against the middle one.
LEAST_WEIGHT = 0.15
# Onsets that come at any time put 0.15 of their weight close to their most common offset.
LEAST_CLOSE = 0.33
LEAST_CLEAR = 0.3

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Drift:
    """At each of ``times_s``: ``offset_s`` of the onsets from the grid (later is positive), and their
    ``spread_s`` around it.
    """

    times_s: FloatArray
    offset_s: FloatArray
    spread_s: FloatArray

    @property
    def worst_s(self) -> float | None:
        """Where onsets lie farthest off, or None where nothing was measured."""
        return float(self.times_s[np.argmax(np.abs(self.offset_s))]) if len(self.times_s) else None


def measure_drift(onset_times: OnsetTimes, tempo_map: TempoMap, duration_s: float) -> Drift:
    """The most common offset of onsets from beats and half-beats in windows of four bars; windows without a
    beat are left out.
    """
    beats = tempo_map.beat_at(onset_times.times_s)
    halves = np.rint(beats * 2.0) / 2.0
    away = onset_times.times_s - tempo_map.time_at(halves)
    say = (
        onset_times.strength**2 * np.where(halves % 1.0 == 0.0, 1.0, OFF_BEAT_SAY) * (np.abs(away) < REACH_S)
    )
    bar = tempo_map.beats_per_bar
    starts = np.array(bars_in(tempo_map, duration_s)[::STEP_BARS]) * bar
    edges = np.searchsorted(beats, [starts, starts + WINDOW_BARS * bar])
    windows = [_mode(away[first:last], say[first:last]) for first, last in edges.T]
    middles = np.clip(tempo_map.time_at(starts + WINDOW_BARS * bar / 2), 0.0, duration_s)
    offsets, spreads, weights, close = np.array(windows).reshape(-1, 4).T
    told = weights > LEAST_WEIGHT * (np.median(weights) if len(weights) else 0.0)
    clear = told & (close > LEAST_CLOSE)
    # Where hardly a window is clear, the grid itself is wrong, and that is to be seen.
    if clear.sum() > LEAST_CLEAR * told.sum():
        told = clear
    return Drift(middles[told], offsets[told], spreads[told])


def _mode(away: FloatArray, say: FloatArray) -> tuple[float, float, float, float]:
    """The offset where onsets lie densest, their spread around it, how much they weigh, and the share of
    that which lies close to it.
    """
    weight = float(say.sum())
    if weight == 0.0:
        return 0.0, 0.0, 0.0, 0.0
    density = np.exp(-0.5 * ((GRID_S[:, None] - away[None, :]) / KERNEL_S) ** 2) @ say
    offset = float(GRID_S[int(np.argmax(density))])
    near = say * (np.abs(away - offset) < SPREAD_S)
    spread = float(np.sqrt((near * (away - offset) ** 2).sum() / near.sum())) if near.any() else 0.0
    return offset, spread, weight, float((say * (np.abs(away - offset) < CLOSE_S)).sum() / weight)
