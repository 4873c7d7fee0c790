"""What each bar sounds like: the rows that structure is found in."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.framing import means_between
from vinyl.core.rhythm.onset import COMPRESSION, LOW_BANDS, OnsetEnvelopes
from vinyl.core.tonal.chroma import Chroma

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Bars:
    """Features of bars that begin at ``starts_s`` (one more for the end of the last).

    ``sound`` are mean log energies in bands (bars, bands), ``pitch`` pitch-class strengths (bars, 24),
    ``low`` and ``level`` mean magnitudes of the low band and of all, ``onsets`` mean onset strength of the
    low band and of all above it.
    """

    starts_s: FloatArray
    sound: FloatArray
    pitch: FloatArray
    low: FloatArray
    level: FloatArray
    onsets: FloatArray

    def __len__(self) -> int:
        return len(self.level)


def describe_bars(onsets: OnsetEnvelopes, chroma: Chroma, starts_s: FloatArray) -> Bars:
    """Features of the n bars between n + 1 times in seconds."""
    sound = means_between(onsets.bands, onsets.rate_hz, starts_s)
    magnitudes = np.expm1(sound) / COMPRESSION
    flux = np.stack([onsets.low, onsets.mid + onsets.high], axis=1)
    pitch = means_between(np.hstack([chroma.bass, chroma.treble]), chroma.rate_hz, starts_s)
    strengths = means_between(flux, onsets.rate_hz, starts_s)
    return Bars(
        starts_s, sound, pitch, magnitudes[:, :LOW_BANDS].mean(axis=1), magnitudes.mean(axis=1), strengths
    )
