"""Tempo maps that move: beats refined on the attacks, then smoothed to a curve or cut into steady pieces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.linalg import solveh_banded
from scipy.ndimage import gaussian_filter1d, uniform_filter1d

from vinyl.core.rhythm.steady import attack

BINS = 128
SPAN_BEATS = 5
REACH_BINS = 16
ROUNDS = 4
STIFFNESS = 120.0
AGREEMENT = 0.3
AGREED_LAG_S = 0.012
HUBER_S = 0.008
TOLERANCE_S = 0.003
# Drummers' strays smear the folded attack, so that its middle lies higher up the slope.
SMEARED_SHARE = 0.85

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class MovingFit:
    """Smooth ``beats_s``, and the share of attacks that they hold (0 to 1)."""

    beats_s: FloatArray
    held: float


def fit_moving(fine: FloatArray, rate_hz: float, beats_s: FloatArray) -> MovingFit:
    """Refine beats by folding the attacks around each of them along the beats themselves.

    Args:
        fine: attack envelope (n,) at ``rate_hz``.
        beats_s: a first guess, good to about a sixteenth note.
    """
    beats, held = beats_s, 0.0
    for _ in range(ROUNDS):
        profiles = beat_profiles(fine, rate_hz, beats)
        lags, weights, alike = _lags(profiles)
        measured = beats + lags * np.gradient(beats)
        beats = smooth_beats(measured, weights)
        held = _held(profiles, measured - beats, alike)
    return MovingFit(beats + _attack_lag(fine, rate_hz, beats), held)


def _attack_lag(fine: FloatArray, rate_hz: float, beats_s: FloatArray) -> float:
    """How far after the beats the attacks begin, in seconds."""
    period_s = float(np.median(np.diff(beats_s)))
    bins = round(period_s * rate_hz)
    numbers = np.interp(np.arange(len(fine)) / rate_hz, beats_s, np.arange(len(beats_s)))
    folded = np.bincount(
        np.minimum(((numbers % 1.0) * bins).astype(np.int64), bins - 1), weights=fine, minlength=bins
    )
    lag_s = attack(folded.astype(np.float64), 0.0, period_s, SMEARED_SHARE)
    return lag_s - period_s if lag_s > period_s / 2 else lag_s


def even_knots(beats_s: FloatArray, first: int, beats_per_bar: int) -> NDArray[np.int64]:
    """Numbers of the bar starts to pin: one in 4, in 2, or each bar, as few as keep the curve within
    TOLERANCE_S.
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
    """Attacks between half a beat before and half a beat after each beat, (beats, BINS), averaged over
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


def _lags(profiles: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Lag in beats of each profile against the mean of all, its weight, and how alike they are."""
    centred = profiles - profiles.mean(axis=1, keepdims=True)
    template = centred.sum(axis=0)
    correlation = scipy.fft.irfft(
        scipy.fft.rfft(centred, axis=1) * np.conj(scipy.fft.rfft(template)), BINS, axis=1
    )
    window = np.concatenate([correlation[:, -REACH_BINS:], correlation[:, : REACH_BINS + 1]], axis=1)
    best = np.clip(np.argmax(window, axis=1), 1, 2 * REACH_BINS - 1)
    rows = np.arange(len(best))
    left, mid, right = (window[rows, best + step] for step in (-1, 0, 1))
    bend = left - 2 * mid + right
    part = np.where(np.abs(bend) > 1e-12, 0.5 * (left - right) / np.where(bend == 0, 1, bend), 0.0)
    norm = np.sqrt((centred**2).sum(axis=1) * (template**2).sum()) + 1e-9
    alike = np.maximum(mid / norm, 0.0)
    lags = (best - REACH_BINS + np.clip(part, -0.5, 0.5)) / BINS
    return lags, np.maximum(mid, 0.0) * alike, alike


def _held(profiles: FloatArray, strays_s: FloatArray, alike: FloatArray) -> float:
    attacks = profiles.sum(axis=1)
    active = np.where(attacks > 0.5 * np.median(attacks), attacks, 0.0)
    agrees = (alike > AGREEMENT) & (np.abs(strays_s) < AGREED_LAG_S)
    return float(active[agrees].sum() / max(active.sum(), 1e-9))
