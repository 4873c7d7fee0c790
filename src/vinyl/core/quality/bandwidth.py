"""How far up a recording reaches, and whether an encoder has cut it off there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.fft
from numpy.typing import NDArray

# Fitted by hand on encodings of made-up pieces and of the development set, if no source is named.

# Samples of a frame, and how far apart frames are: one a second says enough of the highest band.
WINDOW = 4096
STEP_S = 1.0
# Bins that are looked at together (108 Hz at 44.1 kHz).
GROUP = 10
# A tenth, a half and most of the frames reach at least so high: encoders cut all of them off alike, but where
# loud ones were clipped afterwards only the quieter show it.
QUANTILES = (0.9, 0.5, 0.2)
# Groups on either side of an edge whose levels are compared, and those next to it that are left out.
AROUND, LEFT_OUT = 14, 2
LEAST_GROUPS = 5
# An encoder's edge lies between these: below, instruments end of themselves; above, so do converters.
LOWEST_HZ, HIGHEST_HZ = 10_000.0, 20_500.0
# It is so steep, and so little is left above it (dB of full scale, a group): dull music fades out instead.
LEAST_EDGE_DB = 28.0
MOST_ABOVE_DB = -85.0
QUIETEST = 1e-14

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Edge:
    """Where the spectrum ends at once, and by how many decibels."""

    at_hz: float
    fall_db: float


class BandwidthMeter:
    """Takes mono samples that arrive in blocks."""

    def __init__(self, rate_hz: int) -> None:
        self._rate_hz = rate_hz
        self._step = round(STEP_S * rate_hz)
        self._window = np.hanning(WINDOW).astype(np.float32)
        self._skip = 0
        self._levels: list[NDArray[np.float16]] = []

    def push(self, mono: FloatArray) -> None:
        """Take the next samples (n,), in blocks longer than a frame; frames do not go over their ends."""
        starts = np.arange(self._skip, len(mono) - WINDOW + 1, self._step)
        self._skip = max(int(starts[-1]) + self._step - len(mono), 0) if len(starts) else 0
        if len(starts):
            frames = mono[starts[:, None] + np.arange(WINDOW)[None, :]] * self._window
            self._levels.append(_levels_db(np.abs(scipy.fft.rfft(frames, axis=1)) ** 2))

    def finish(self) -> Edge | None:
        """The edge that an encoder has left, if there is one."""
        if not self._levels:
            return None
        levels = np.quantile(np.concatenate(self._levels).astype(np.float64), QUANTILES, axis=0)
        group_hz = GROUP * self._rate_hz / WINDOW
        return next((edge for level in levels if (edge := find_edge(level, group_hz))), None)


def find_edge(levels_db: NDArray[np.float64], group_hz: float) -> Edge | None:
    """The steepest fall of levels (groups,) that lie ``group_hz`` apart, if it is an encoder's."""
    best: Edge | None = None
    last = min(int(HIGHEST_HZ / group_hz), len(levels_db) - LEFT_OUT - LEAST_GROUPS)
    for place in range(int(LOWEST_HZ / group_hz), last + 1):
        below = float(levels_db[place - AROUND : place - LEFT_OUT].mean())
        above = float(levels_db[place + LEFT_OUT : place + AROUND].max())
        fall = below - above
        if above < MOST_ABOVE_DB and fall > (best.fall_db if best else LEAST_EDGE_DB):
            best = Edge((place + 0.5) * group_hz, fall)
    return best


def _levels_db(power: NDArray[np.floating]) -> NDArray[np.float16]:
    """Levels (frames, groups) in dB of full scale."""
    groups = (power.shape[1] - 1) // GROUP
    mean = power[:, 1 : 1 + groups * GROUP].reshape(len(power), groups, GROUP).mean(axis=2)
    full = (WINDOW / 4) ** 2 * 1.5
    levels: NDArray[np.float16] = (10.0 * np.log10(mean / full + QUIETEST)).astype(np.float16)
    return levels
