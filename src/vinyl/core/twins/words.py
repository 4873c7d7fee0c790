"""Words that two fingerprints have in common: quickly told whether a closer look is worth it."""

from __future__ import annotations

import numpy as np

from vinyl.core.likeness.fingerprint import Fingerprint

# Unrelated music has a few by chance, the more the longer it is; copies half a percent faster, or encoded
# anew and shifted by half a frame, had 2.4% and more in common (docs/accuracy.md).
LEAST_COMMON, LEAST_SHARE = 8, 0.01


def distinct_words(fingerprint: Fingerprint) -> Fingerprint:
    """The words of a fingerprint, each once, in order; silence has none."""
    words: Fingerprint = np.unique(fingerprint[fingerprint != 0])
    return words


def is_worth_a_look(first: Fingerprint, second: Fingerprint) -> bool:
    """Whether the distinct words of two fingerprints have so many in common that they may be one recording,
    or hold one backing.
    """
    common = len(np.intersect1d(first, second, assume_unique=True))
    return common >= max(LEAST_COMMON, LEAST_SHARE * min(len(first), len(second)))
