"""Finding the nearest of many descriptors: one matrix, one product, no approximation."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vinyl.core.likeness.descriptor import HARMONY, RHYTHM, SIZE, TIMBRE, Descriptor

Question = Literal["sounds similar", "same backing"]
# What sound, rhythm and harmony have to say to each question: set by what the words mean, not fitted.
SAY: dict[Question, tuple[tuple[slice, float], ...]] = {
    "sounds similar": ((TIMBRE, 0.55), (RHYTHM, 0.35), (HARMONY, 0.1)),
    "same backing": ((TIMBRE, 0.2), (RHYTHM, 0.4), (HARMONY, 0.4)),
}


class DescriptorIndex:
    """Descriptors of tracks (n, SIZE) with their numbers; 100,000 take 46 MB."""

    def __init__(self, track_ids: NDArray[np.int64], descriptors: NDArray[np.float32]) -> None:
        self._ids = track_ids
        self._descriptors = np.ascontiguousarray(descriptors, dtype=np.float32).reshape(-1, SIZE)

    def nearest(
        self, wanted: Descriptor, count: int, question: Question = "sounds similar"
    ) -> list[tuple[int, float]]:
        """Track numbers with their likeness (-1 to 1), best first."""
        likeness = self._descriptors @ _weighted(wanted, question)
        count = min(count, len(likeness))
        best = (
            np.argpartition(likeness, len(likeness) - count)[len(likeness) - count :]
            if count
            else np.zeros(0, np.int64)
        )
        best = best[np.argsort(likeness[best])[::-1]]
        return [(int(self._ids[i]), float(likeness[i])) for i in best]

    def likeness(self, wanted: Descriptor, question: Question = "sounds similar") -> dict[int, float]:
        """The likeness of each track."""
        likeness = self._descriptors @ _weighted(wanted, question)
        return dict(zip(self._ids.tolist(), likeness.tolist(), strict=True))


def weights(question: Question) -> Descriptor:
    """What each number of a descriptor has to say to a question."""
    found = np.zeros(SIZE, np.float32)
    for part, say in SAY[question]:
        found[part] = say
    return found


def _weighted(wanted: Descriptor, question: Question) -> Descriptor:
    weighted: Descriptor = weights(question) * wanted
    return weighted
