"""The key of a track: one of 24, or none, a second key where it changes, and how sure that is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.tonal.chroma import Chroma
from vinyl.core.tonal.evidence import key_chances, key_evidence
from vinyl.core.tonal.key import Key
from vinyl.core.tonal.profiles import BASS_LINES, KEYS, fit

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


def estimate_key(chroma: Chroma, bar_starts_s: FloatArray, grid_doubt: float) -> KeyEstimate:
    """The key that has most evidence (see vinyl.core.tonal.evidence), or none in drums alone.

    Args:
        bar_starts_s: bar starts in seconds, the first of which begins a phrase; none if there is no grid.
        grid_doubt: 0 (sure) to 1 (there is no grid).
    """
    treble, bass = (part.mean(axis=0).astype(np.float64) for part in (chroma.treble, chroma.bass))
    if not treble.any():
        return KeyEstimate(None, 0.0, None, 0.0)
    chances = key_chances(key_evidence(chroma, bar_starts_s, grid_doubt))
    order = np.argsort(chances)[::-1]
    if not _is_tonal(float(key_scores(treble, bass).max()), treble, chroma.concentration):
        return KeyEstimate(None, 0.0, _key(order[0]), chroma.tuning_cents)
    change = _find_change(chroma)
    if change is not None:
        block, first, second = change
        return KeyEstimate(_key(first), 0.5, _key(second), chroma.tuning_cents, _key(second), block * BLOCK_S)
    return KeyEstimate(_key(order[0]), float(chances[order[0]]), _key(order[1]), chroma.tuning_cents)


def key_scores(treble: FloatArray, bass: FloatArray) -> FloatArray:
    """Fit (-1 to 1) of each of 24 keys (majors from C, then minors) to pitch-class strengths of shape (…, 12)."""
    scores: FloatArray = (fit(treble, KEYS) + BASS_SAY * fit(bass, BASS_LINES)) / (1.0 + BASS_SAY)
    return scores


def _key(index: int | np.integer) -> Key:
    return Key(int(index) % 12, "major" if index < 12 else "minor")


def _is_tonal(score: float, treble: FloatArray, concentration: float) -> bool:
    """Drums alone keep to no tuning and fit no key, or fit all: their chroma is flat, or hardly there."""
    if treble.max() < LEAST_STRENGTH or treble.std() < LEAST_CONTRAST * treble.mean():
        return False
    return score + 0.5 * float(np.log(concentration + 1e-6)) > LEAST_TONAL


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
