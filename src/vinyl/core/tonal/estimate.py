"""The key of a track: one of 24, or none, a second key where it changes, and how sure that is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.tonal.change import in_first_key
from vinyl.core.tonal.chroma import Chroma
from vinyl.core.tonal.evidence import Phrases, key_chances, key_evidence
from vinyl.core.tonal.key import Key
from vinyl.core.tonal.profiles import BASS_LINES, KEYS, fit

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# What the bass line has to say beside the tones (1) of whether there is a key at all.
BASS_SAY = 0.4
# Tonal music has tones of this mean strength, and their strengths differ as a key asks by this share of their
# mean: drums whose chroma is flat reach 0.12, the development set's music with a known key at least 0.26.
LEAST_STRENGTH = 0.1
LEAST_CONTRAST = 0.145
# The fit of the best key (a correlation) and half the logarithm of how closely tones keep to their tuning
# together: drums alone stay under this.
LEAST_TONAL = -0.43
CONCENTRATION_SAY = 0.5
# One tone alone fits no key well and stands far out, as of a tuned drum: the contrast of made-up drums alone
# is 1.25 to 2.01, of other music at most 1.03.
ONE_TONE_FIT, ONE_TONE_CONTRAST = 0.52, 1.15
# The shares of a track that are asked, so that what it begins or ends with does not decide alone.
PARTS = ((0.0, 1.0), (0.0, 0.75), (0.25, 1.0))

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class KeyEstimate:
    """``key`` is None where none can be heard; ``confidence`` (0 to 1) is the chance that it is exact.

    ``second`` holds from ``second_from_s`` on, where the track changes key for good; ``runner_up`` is the
    next best for the whole.
    """

    key: Key | None
    confidence: float
    runner_up: Key | None
    tuning_cents: float
    second: Key | None = None
    second_from_s: float | None = None


def estimate_key(chroma: Chroma, phrases: Phrases | None, grid_doubt: float) -> KeyEstimate:
    """The key that has most evidence (see vinyl.core.tonal.evidence), or none in drums alone.

    Args:
        phrases: where phrases may begin; None if there is no grid.
        grid_doubt: 0 (sure) to 1 (there is no grid).
    """
    if not chroma.treble.any():
        return KeyEstimate(None, 0.0, None, 0.0)
    chroma, change = in_first_key(chroma)
    chances = _chances(chroma, phrases, grid_doubt)
    best, next_best = (_key(index) for index in np.argsort(chances)[:-3:-1])
    if not _is_tonal(chroma):
        return KeyEstimate(None, 0.0, best, chroma.tuning_cents)
    confidence = float(chances.max())
    if change is None:
        return KeyEstimate(best, confidence, next_best, chroma.tuning_cents)
    return KeyEstimate(
        best, confidence, next_best, chroma.tuning_cents, best.transposed(change.semitones), change.time_s
    )


def _chances(chroma: Chroma, phrases: Phrases | None, grid_doubt: float) -> FloatArray:
    """The mean chances (24,) of each key over all PARTS, by how much sounds in them."""
    duration_s = len(chroma.treble) / chroma.rate_hz
    chances, say = [], []
    for start_s, end_s in ((start * duration_s, end * duration_s) for start, end in PARTS):
        part = chroma.between(start_s, end_s)
        within = phrases.between(start_s, end_s) if phrases else None
        chances.append(key_chances(key_evidence(part, within, grid_doubt)))
        say.append(float(part.treble.sum(dtype=np.float64)))
    mean: FloatArray = np.average(chances, axis=0, weights=say)
    return mean


def _key(index: int | np.integer) -> Key:
    return Key(int(index) % 12, "major" if index < 12 else "minor")


def _is_tonal(chroma: Chroma) -> bool:
    """Drums alone keep to no tuning and fit no key, or fit all: their chroma is flat, hardly there, or one
    tone.
    """
    treble, bass = (part.mean(axis=0, dtype=np.float64) for part in (chroma.treble, chroma.bass))
    best = float((fit(treble, KEYS) + BASS_SAY * fit(bass, BASS_LINES)).max()) / (1.0 + BASS_SAY)
    if treble.max() < LEAST_STRENGTH or best * treble.std() < LEAST_CONTRAST * treble.mean():
        return False
    if best < ONE_TONE_FIT and treble.std() > ONE_TONE_CONTRAST * treble.mean():
        return False
    return best + CONCENTRATION_SAY * float(np.log(chroma.concentration + 1e-6)) > LEAST_TONAL
