"""Beats through stretches in which they can hardly be heard: carried on from both sides, at the tempo that is
heard there.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, uniform_filter1d

from vinyl.core.rhythm.elastic import smooth_beats

# Fitted by hand on made-up pieces with drummers (docs/accuracy.md).

# Bins of a beat, blurred by so many; beats averaged to find stretches, and to refine beats.
BINS, BLUR_BINS = 128, 1.5
SPAN_BEATS, NEAR_BEATS = 9, 5
# The usual beat is the mean of the blocks that are so like the one that most others are like.
BLOCK_BEATS = 16
LIKE_BLOCK, LIKE_USUAL = 0.5, 0.6
# A beat is heard if it is so like the usual one, in stretches of so many beats. Farther than an eighth of a
# beat away such a stretch must be long: a new hold half a beat away is a sign, not a correction.
HEARD, LEAST_BEATS, LEAST_AWAY = 0.6, 16, 48
# Beats that a stretch must have left without its edges, over which the mean reaches into its neighbours.
LEAST_INSIDE = 8
# The tempo at the edge of a stretch is that of so many beats.
EDGE_BEATS = 32
# Beats were counted right between two stretches if the tempo on both sides asks for so many within this.
COUNT_PLAY = 0.7
# What attacks have to say where the beat is carried on, beside those where it is heard.
CARRIED_SAY = 0.5
ROUNDS = 5
# Lags are looked for within this share of a beat on either side: beyond lies the next sixteenth.
LAG_SHARE = 1 / 8

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Carried:
    """``beats_s`` from start to end, and which of them (n,) can be ``heard``."""

    beats_s: FloatArray
    heard: NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class _Stretch:
    """Times of beats that are heard, the first of them number ``first`` of those that were followed."""

    first: int
    times_s: FloatArray

    @property
    def end(self) -> int:
        return self.first + len(self.times_s)

    @property
    def period_before_s(self) -> float:
        return float(np.median(np.diff(self.times_s[:EDGE_BEATS])))

    @property
    def period_after_s(self) -> float:
        return float(np.median(np.diff(self.times_s[-EDGE_BEATS:])))


def carry_on(
    bands: NDArray[np.float32], rate_hz: float, beats_s: FloatArray, path: tuple[FloatArray, FloatArray]
) -> Carried:
    """Beats that were followed, with those that were only guessed replaced.

    What sounds on a beat, low and high, tells it from the off-beat. Where that is heard, it settles the
    phase; between two such stretches beats are spaced evenly, and beyond the outer ones they go on as the
    local tempo does, before the attacks there are listened to.

    Args:
        bands: fine onset envelopes (2, n) at ``rate_hz``.
        path: local tempo as times and beat periods (m,) in seconds.
    """
    stretches = _stretches(bands, rate_hz, beats_s)
    if not stretches:
        return Carried(beats_s, np.zeros(len(beats_s), np.bool_))
    numbers, times_s = _numbered(stretches)
    before = _outward(times_s[0], stretches[0].period_before_s, path, -1, beats_s[0])[::-1]
    after = _outward(times_s[-1], stretches[-1].period_after_s, path, 1, beats_s[-1])
    inner = np.arange(numbers[0], numbers[-1] + 1)
    beats = np.concatenate([before, np.interp(inner, numbers, times_s), after])
    sure = np.isin(np.arange(len(beats)) + numbers[0] - len(before), numbers)
    carried = _refined(bands, rate_hz, beats, sure)
    # Where stretches contradict each other, what was followed is the better guess.
    in_order = bool((np.diff(carried.beats_s) > 0.0).all())
    return carried if in_order else Carried(beats_s, np.zeros(len(beats_s), np.bool_))


def _stretches(bands: NDArray[np.float32], rate_hz: float, beats_s: FloatArray) -> list[_Stretch]:
    profiles = _profiles(bands, rate_hz, beats_s, SPAN_BEATS)
    if len(profiles) < BLOCK_BEATS:
        return []
    alike = _correlations(profiles, _usual(profiles))
    bins = np.argmax(alike, axis=1)
    heard = alike[np.arange(len(alike)), bins] > HEARD
    lags = ((bins + BINS // 2) % BINS - BINS // 2) / BINS
    quarters = np.round(4 * lags).astype(np.int64) % 4
    measured = beats_s + lags * np.gradient(beats_s)
    found = []
    for quarter in range(4):
        least = LEAST_BEATS if quarter == 0 else LEAST_AWAY
        for first, end in _runs(heard & (quarters == quarter), least):
            first += SPAN_BEATS // 2 if first > 0 else 0
            end -= SPAN_BEATS // 2 if end < len(beats_s) else 0
            if end - first >= LEAST_INSIDE:
                found.append(_Stretch(first, measured[first:end]))
    return sorted(found, key=lambda stretch: stretch.first)


def _profiles(bands: NDArray[np.float32], rate_hz: float, beats_s: FloatArray, span: int) -> FloatArray:
    """Onset strength around each beat, from half a beat before on, (beats, 2, BINS), averaged over
    neighbours.
    """
    steps = np.arange(bands.shape[1]) / rate_hz
    numbers = np.interp(steps, beats_s, np.arange(len(beats_s)), left=-9.0, right=-9.0)
    inside = numbers > -9.0
    place = ((numbers[inside] + 0.5) * BINS).astype(np.int64)
    size = (len(beats_s) + 1) * BINS
    sums = np.stack([np.bincount(place, weights=band[inside], minlength=size) for band in bands])
    folded = sums[:, : len(beats_s) * BINS].reshape(2, len(beats_s), BINS).swapaxes(0, 1).astype(np.float64)
    blurred: FloatArray = gaussian_filter1d(folded, BLUR_BINS, axis=2, mode="wrap")
    blurred -= blurred.mean(axis=2, keepdims=True)
    near: FloatArray = uniform_filter1d(blurred, span, axis=0, mode="nearest")
    return near


def _usual(profiles: FloatArray) -> FloatArray:
    """The beat (2, BINS) that most of the track has."""
    whole = len(profiles) // BLOCK_BEATS
    blocks = profiles[: whole * BLOCK_BEATS].reshape(whole, BLOCK_BEATS, 2, BINS).mean(axis=1)
    flat = blocks.reshape(whole, -1)
    flat = flat / (np.linalg.norm(flat, axis=1, keepdims=True) + 1e-9)
    alike = flat @ flat.T
    best = int(np.argmax(np.maximum(alike - LIKE_BLOCK, 0.0).sum(axis=1)))
    usual: FloatArray = blocks[alike[best] > LIKE_USUAL].mean(axis=0) if whole else profiles.mean(axis=0)
    return usual


def _correlations(profiles: FloatArray, usual: FloatArray) -> FloatArray:
    """Likeness (-1 to 1) of profiles (n, 2, BINS) to a beat (2, BINS) at each lag in bins, (n, BINS)."""
    spectra = (scipy.fft.rfft(profiles, axis=2) * np.conj(scipy.fft.rfft(usual, axis=1))).sum(axis=1)
    scale = np.sqrt((profiles**2).sum(axis=(1, 2)) * (usual**2).sum()) + 1e-9
    alike: FloatArray = scipy.fft.irfft(spectra, BINS, axis=1) / scale[:, None]
    return alike


def _runs(mask: NDArray[np.bool_], least: int) -> list[tuple[int, int]]:
    """First and end of each run of so many true values."""
    edges = np.flatnonzero(np.diff(mask.astype(np.int8), prepend=0, append=0))
    return [
        (int(first), int(end))
        for first, end in zip(edges[::2], edges[1::2], strict=True)
        if end - first >= least
    ]


def _numbered(stretches: list[_Stretch]) -> tuple[NDArray[np.int64], FloatArray]:
    """Numbers and times of all beats that are heard."""
    numbers = [np.arange(len(stretches[0].times_s))]
    for before, after in pairwise(stretches):
        gap_s = float(after.times_s[0] - before.times_s[-1])
        asked = 2.0 * gap_s / (before.period_after_s + after.period_before_s)
        counted = after.first - before.end + 1
        step = counted if abs(counted - asked) < COUNT_PLAY else max(round(asked), 1)
        numbers.append(numbers[-1][-1] + step + np.arange(len(after.times_s)))
    return np.concatenate(numbers), np.concatenate([stretch.times_s for stretch in stretches])


def _outward(
    from_s: float, period_s: float, path: tuple[FloatArray, FloatArray], step: int, to_s: float
) -> FloatArray:
    """Beats from one (not included) on towards a time, as far apart as the local tempo asks."""
    scale = period_s / float(np.interp(from_s, *path))
    found, at_s = list[float](), from_s
    while True:
        at_s += step * scale * float(np.interp(at_s, *path))
        if step * (at_s - to_s) > period_s / 2:
            return np.array(found)
        found.append(at_s)


def _refined(
    bands: NDArray[np.float32], rate_hz: float, beats_s: FloatArray, sure: NDArray[np.bool_]
) -> Carried:
    """All beats drawn to the attacks near them, and smoothed."""
    reach, alike = int(LAG_SHARE * BINS), np.zeros(len(beats_s))
    for _ in range(ROUNDS):
        profiles = _profiles(bands, rate_hz, beats_s, NEAR_BEATS)
        near = np.roll(_correlations(profiles, profiles[sure].mean(axis=0)), reach, axis=1)
        near = near[:, : 2 * reach + 1]
        best = np.argmax(near, axis=1)
        alike = np.maximum(near[np.arange(len(near)), best], 0.0)
        lags = (best - reach) / BINS * np.gradient(beats_s)
        beats_s = smooth_beats(beats_s + lags, alike**2 * np.where(sure, 1.0, CARRIED_SAY))
    return Carried(beats_s, alike > HEARD)
