"""Tempo maps that move: beats refined on the onsets, then smoothed to a curve or cut into steady pieces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import solveh_banded
from scipy.ndimage import gaussian_filter1d, uniform_filter1d

from vinyl.core.rhythm.steady import held_share, lags_against, onset_phase

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Bins of a beat's profile, and the beats around it that are averaged into it.
BINS = 128
SPAN_BEATS = 5
ROUNDS = 4
# What a change of tempo costs against straying from what was measured (the lambda of Whittaker, 1923).
STIFFNESS = 120.0
# Strays beyond this count less and less (Huber, 1964).
HUBER_S = 0.008
# Beats agree with the curve if they lag no more.
AGREED_LAG_S = 0.012
# Anchors are set as far apart as keeps the curve this close.
TOLERANCE_S = 0.003
# Drummers' strays smear the folded onsets, so that their middle lies higher up the slope.
SMEARED_SHARE = 0.9

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class MovingFit:
    """Smooth ``beats_s``, and the share of onsets that they hold (0 to 1)."""

    beats_s: FloatArray
    held: float


def fit_moving(fine: FloatArray, rate_hz: float, beats_s: FloatArray) -> MovingFit:
    """Refine beats by folding the onsets around each of them along the beats themselves.

    Args:
        fine: onset envelope (n,) at ``rate_hz``.
        beats_s: a first guess, good to about a sixteenth note.
    """
    beats, held = beats_s, 0.0
    for _ in range(ROUNDS):
        profiles = beat_profiles(fine, rate_hz, beats)
        lags, weights, alike = lags_against(profiles, profiles.sum(axis=0), 1.0)
        measured = beats + lags * np.gradient(beats)
        beats = smooth_beats(measured, weights)
        held = held_share(profiles, measured - beats, alike, AGREED_LAG_S)
    return MovingFit(beats, held)


def onset_lag(fine: FloatArray, rate_hz: float, beats_s: FloatArray) -> float:
    """How far after the beats the onsets begin, in seconds."""
    period_s = float(np.median(np.diff(beats_s)))
    bins = round(period_s * rate_hz)
    numbers = np.interp(np.arange(len(fine)) / rate_hz, beats_s, np.arange(len(beats_s)))
    folded = np.bincount(
        np.minimum(((numbers % 1.0) * bins).astype(np.int64), bins - 1), weights=fine, minlength=bins
    )
    lag_s = onset_phase(folded.astype(np.float64), 0.0, period_s, SMEARED_SHARE)
    return lag_s - period_s if lag_s > period_s / 2 else lag_s


def even_knots(beats_s: FloatArray, first: int, beats_per_bar: int) -> NDArray[np.int64]:
    """Numbers (k,) of the bar starts to pin among beats (n,) in seconds: one in 4, in 2, or each bar, as few
    as keep the curve within TOLERANCE_S.
    """
    numbers = np.arange(len(beats_s))
    for bars in (4, 2, 1):
        pinned = np.arange(first, len(beats_s), bars * beats_per_bar)
        between = (numbers >= pinned[0]) & (numbers <= pinned[-1])
        if (
            bars == 1
            or np.abs(np.interp(numbers, pinned, beats_s[pinned]) - beats_s)[between].max() < TOLERANCE_S
        ):
            return pinned
    return pinned


def beat_profiles(fine: FloatArray, rate_hz: float, beats_s: FloatArray) -> FloatArray:
    """Onset strength between half a beat before and half a beat after each beat, (beats, BINS), averaged over
    neighbours.
    """
    numbers = np.interp(np.arange(len(fine)) / rate_hz, beats_s, np.arange(len(beats_s)), left=-9, right=-9)
    inside = numbers > -9
    place = (numbers[inside] + 0.5) * BINS
    sums = np.bincount(place.astype(np.int64), weights=fine[inside], minlength=(len(beats_s) + 1) * BINS)
    folded = sums[: len(beats_s) * BINS].reshape(len(beats_s), BINS).astype(np.float64)
    soft = gaussian_filter1d(folded, 1.0, axis=1, mode="wrap")
    near: FloatArray = uniform_filter1d(soft, SPAN_BEATS, axis=0, mode="nearest")
    return near


def smooth_beats(measured_s: FloatArray, weights: FloatArray) -> FloatArray:
    """The curve near the measured beats whose tempo changes least (Whittaker, 1923), strays counting less."""
    count = len(measured_s)
    robust = weights / (weights.mean() + 1e-12)
    smooth = measured_s
    for _ in range(3):
        bands = np.zeros((3, count))
        bands[0] = robust + 1e-6
        for offset, pattern in enumerate(((1, 5, 6, 5, 1), (-2, -4, -4, -2), (1, 1, 1))):
            bands[offset, : count - offset] += STIFFNESS * _inner(pattern, count - offset)
        smooth = solveh_banded(bands, (robust + 1e-6) * measured_s, lower=True)
        robust = weights / (weights.mean() + 1e-12) / np.maximum(np.abs(measured_s - smooth) / HUBER_S, 1.0)
    return smooth


def _inner(pattern: tuple[int, ...], length: int) -> FloatArray:
    """A diagonal of the second-difference penalty: its pattern at the ends, its middle value between."""
    half = len(pattern) // 2
    middle = np.full(length, float(pattern[half]))
    middle[:half], middle[length - half :] = pattern[:half], pattern[len(pattern) - half :]
    return middle
