"""How well pitch-class strengths fit each of the 24 keys: majors from C on, then minors."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

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
TRIADS = ((1.0, 0, 0, 0, 0.7, 0, 0, 0.8, 0, 0, 0, 0), (1.0, 0, 0, 0.7, 0, 0, 0, 0.8, 0, 0, 0, 0))
ROOTS = ((1.0,) + (0.0,) * 11,) * 2

FloatArray = NDArray[np.float64]


def fit(strengths: NDArray[np.floating], profiles: FloatArray) -> FloatArray:
    """Correlation (-1 to 1) of pitch-class strengths (…, 12) with the profiles of 24 keys (24, 12)."""
    result: FloatArray = standardised(strengths) @ profiles.T / 12.0
    return result


def standardised(values: NDArray[np.floating]) -> FloatArray:
    """Values (…, 12) of mean 0 and deviation 1."""
    result: FloatArray = (values - values.mean(axis=-1, keepdims=True)) / (
        values.std(axis=-1, keepdims=True) + 1e-9
    )
    return result


def _all_tonics(profiles: tuple[tuple[float, ...], ...]) -> FloatArray:
    """Standardised profiles of 24 keys, (24, 12), out of those of C major and C minor."""
    return standardised(np.array([np.roll(profile, tonic) for profile in profiles for tonic in range(12)]))


KEYS = _all_tonics(RATED)
BASS_LINES = _all_tonics(BASS_PROFILES)
TONIC_TRIADS = _all_tonics(TRIADS)
TONICS = _all_tonics(ROOTS)
