"""How much later one recording begins than another, to a millisecond, from their attacks."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

# Attacks are paired so far from where they are expected: a frame of a fingerprint lasts 93 ms.
REACH_S = 0.08
# The densest difference is looked for every half millisecond with such a kernel, then averaged so near to it.
STEP_S, KERNEL_S, NEAR_S = 5e-4, 0.0015, 0.003
# Attacks for one answer.
LEAST_PAIRS = 8

FloatArray = NDArray[np.float64]


def settle_offset(first_s: FloatArray, second_s: FloatArray, near_s: float) -> float:
    """The difference of time that most attacks (n,) of one recording and (m,) of another have in common.

    Args:
        near_s: what is known of it; given back where too few attacks agree.
    """
    found = common_offset(first_s, second_s, near_s)
    return near_s if found is None else found[0]


def common_offset(first_s: FloatArray, second_s: FloatArray, near_s: float) -> tuple[float, int] | None:
    """The same with how many pairs of attacks agree; None where they are too few."""
    apart_s = _differences(first_s + near_s, second_s)
    if len(apart_s) < LEAST_PAIRS:
        return None
    trial_s = np.arange(-REACH_S, REACH_S + STEP_S / 2, STEP_S)
    places = np.rint((apart_s + REACH_S) / STEP_S).astype(np.int64)
    counts = np.bincount(places, minlength=len(trial_s)).astype(np.float64)
    kernel = np.exp(-0.5 * (np.arange(-8, 9) * STEP_S / KERNEL_S) ** 2)
    best_s = trial_s[int(np.argmax(np.convolve(counts, kernel, "same")[: len(trial_s)]))]
    close = apart_s[np.abs(apart_s - best_s) < NEAR_S]
    return (near_s + float(np.median(close)), len(close)) if len(close) >= LEAST_PAIRS else None


def _differences(expected_s: FloatArray, found_s: FloatArray) -> FloatArray:
    """How far each attack found lies from each one expected, within REACH_S."""
    first = np.searchsorted(found_s, expected_s - REACH_S)
    counts = np.searchsorted(found_s, expected_s + REACH_S) - first
    starts = np.cumsum(counts) - counts
    index = np.repeat(first - starts, counts) + np.arange(counts.sum())
    apart: FloatArray = found_s[index] - np.repeat(expected_s, counts)
    return apart
