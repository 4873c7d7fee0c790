"""The key of a track: one of 24, or none, a second key where it changes, and how sure that is."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.tonal.chroma import Chroma
from vinyl.core.tonal.key import Key

# How well each degree fits a major and a minor key: listeners' ratings (Krumhansl and Kessler, 1982).
RATED = (
    (6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88),
    (6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17),
)
# What a bass line plays: the root, then fifth and fourth, then the rest of the scale.
BASS_PROFILES = (
    (2.0, 0.0, 0.6, 0.0, 0.3, 0.9, 0.0, 1.2, 0.0, 0.5, 0.2, 0.2),
    (2.0, 0.0, 0.4, 0.7, 0.0, 0.9, 0.0, 1.2, 0.6, 0.0, 0.6, 0.0),
)
BASS_SAY = 0.4
LEAST_CONTRAST = 0.22
LEAST_TONAL = -0.43
LEAST_STRENGTH = 0.1
BLOCK_S = 4.0
LEAST_SHARE = 0.25
LEAST_GAIN = 0.13
LEAST_MARGIN = 0.2
# An intro of drums is no other key: both parts must hold tones in like measure.
LEAST_MASS = 0.75
MARGIN_OFFSET = -0.53
MARGIN_SLOPE = 10.9

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class KeyEstimate:
    """``key`` is None where none can be heard; ``confidence`` (0 to 1) is the chance that it is exact.

    ``second`` holds from ``second_from_s`` on, where the track changes key for good; ``runner_up`` is the next best for the whole.
    """

    key: Key | None
    confidence: float
    runner_up: Key | None
    tuning_cents: float
    second: Key | None = None
    second_from_s: float | None = None


def estimate_key(chroma: Chroma) -> KeyEstimate:
    """Correlate averaged chroma with key profiles (Krumhansl and Schmuckler, 1990)."""
    treble, bass = (part.mean(axis=0).astype(np.float64) for part in (chroma.treble, chroma.bass))
    if not treble.any():
        return KeyEstimate(None, 0.0, None, 0.0)
    scores = key_scores(treble, bass)
    order = np.argsort(scores)[::-1]
    if not _is_tonal(float(scores[order[0]]), treble, chroma.concentration):
        return KeyEstimate(None, 0.0, _key(order[0]), chroma.tuning_cents)
    change = _find_change(chroma)
    if change is not None:
        block, first, second = change
        return KeyEstimate(_key(first), 0.5, _key(second), chroma.tuning_cents, _key(second), block * BLOCK_S)
    return KeyEstimate(_key(order[0]), _confidence(scores[order]), _key(order[1]), chroma.tuning_cents)


def key_scores(treble: FloatArray, bass: FloatArray) -> FloatArray:
    """Fit (-1 to 1) of each of 24 keys (majors from C, then minors) to pitch-class strengths of shape (…, 12)."""
    fit = _standardised(treble) @ _TREBLE.T + BASS_SAY * (_standardised(bass) @ _BASS.T)
    scores: FloatArray = fit / 12.0 / (1.0 + BASS_SAY)
    return scores


def _standardised(values: FloatArray) -> FloatArray:
    result: FloatArray = (values - values.mean(axis=-1, keepdims=True)) / (values.std(axis=-1, keepdims=True) + 1e-9)
    return result


def _all_tonics(profiles: FloatArray) -> FloatArray:
    """Standardised profiles of 24 keys, (24, 12), out of those for C, (2, 12)."""
    return _standardised(np.array([np.roll(profile, tonic) for profile in profiles for tonic in range(12)]))


_TREBLE = _all_tonics(np.array(RATED))
_BASS = _all_tonics(np.array(BASS_PROFILES))


def _key(index: int | np.integer) -> Key:
    return Key(int(index) % 12, "major" if index < 12 else "minor")


def _is_tonal(score: float, treble: FloatArray, concentration: float) -> bool:
    """Drums alone keep to no tuning and fit no key, or fit all: their chroma is flat, or hardly there."""
    if treble.max() < LEAST_STRENGTH or treble.std() < LEAST_CONTRAST * treble.mean():
        return False
    return score + 0.5 * float(np.log(concentration + 1e-6)) > LEAST_TONAL


def _confidence(sorted_scores: FloatArray) -> float:
    """How often keys that lead by this margin are exact, by logistic regression on the development set and made-up pieces."""
    margin = float(sorted_scores[0] - sorted_scores[1])
    return 1.0 / (1.0 + math.exp(-(MARGIN_OFFSET + MARGIN_SLOPE * margin)))


def _find_change(chroma: Chroma) -> tuple[int, int, int] | None:
    """The block where one key gives way to another for the rest of the track, and both keys, if that fits clearly better than one."""
    treble, bass = (_block_sums(part, round(BLOCK_S * chroma.rate_hz)) for part in (chroma.treble, chroma.bass))
    count = len(treble) - 1
    edge = int(np.ceil(LEAST_SHARE * count))
    splits = np.arange(max(edge, 3), count - max(edge, 3) + 1)
    if not len(splits):
        return None
    before = key_scores(treble[splits], bass[splits])
    after = key_scores(treble[-1] - treble[splits], bass[-1] - bass[splits])
    share = (splits / count)[:, None]
    first, second = before.argmax(axis=1), after.argmax(axis=1)
    apart = (share * before).max(axis=1) + ((1 - share) * after).max(axis=1)
    gain = apart - (share * before + (1 - share) * after).max(axis=1)
    rows = np.arange(len(splits))
    margin = np.minimum(before[rows, first] - before[rows, second], after[rows, second] - after[rows, first])
    mass = treble[splits].sum(axis=1) / splits * (count - splits) / ((treble[-1] - treble[splits]).sum(axis=1) + 1e-9)
    gain = np.where((margin > LEAST_MARGIN) & (mass > LEAST_MASS) & (mass < 1 / LEAST_MASS), gain, 0.0)
    best = int(np.argmax(gain))
    return (int(splits[best]), int(first[best]), int(second[best])) if gain[best] > LEAST_GAIN else None


def _block_sums(frames: NDArray[np.float32], length: int) -> FloatArray:
    """Running sums of frames at the ends of blocks, (blocks + 1, 12)."""
    total = np.vstack([np.zeros(frames.shape[1]), np.cumsum(frames, axis=0, dtype=np.float64)])
    sums: FloatArray = total[::length]
    return sums
