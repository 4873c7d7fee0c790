"""Tempo windows: between which tempi a style's beat is counted, learnt from tracks whose tempo is known."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

Window = tuple[float, float]
# So many known tempi say what a style's are, if this share of them lies within one octave.
LEAST_KNOWN = 8
INSIDE_SHARE = 0.9
HALF_OCTAVE = math.sqrt(2)
SLOWEST_BPM, FASTEST_BPM = 20.0, 400.0


def learn_window(tempi_bpm: Sequence[float]) -> Window | None:
    """The octave about the median of known tempi, rounded to whole tempi; None where they are few or lie too
    far apart for it to say anything.
    """
    if len(tempi_bpm) < LEAST_KNOWN:
        return None
    tempi = np.asarray(tempi_bpm, dtype=np.float64)
    centre = float(np.median(tempi))
    low, high = centre / HALF_OCTAVE, centre * HALF_OCTAVE
    if float(np.mean((tempi >= low) & (tempi <= high))) < INSIDE_SHARE:
        return None
    return float(round(low)), float(round(high))


def is_window(low: float, high: float) -> bool:
    """Whether two tempi make sense as a window."""
    return SLOWEST_BPM <= low < high <= FASTEST_BPM
