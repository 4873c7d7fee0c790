"""A fingerprint that stays when a recording is encoded again, turned up or down, or shifted in time."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from vinyl.core.spectrum import HOP, KEPT_BINS, WINDOW

BITS = 32
LOWEST_HZ = 250.0
HIGHEST_HZ = 2600.0
# Bands far below the strongest of the last seconds hold what an encoder leaves of noise: they are to say
# nothing.
FLOOR = 0.02
# From frame to frame: half is left after 2 s.
FLOOR_FADE = 0.97
# Smaller changes of the tilt (nepers) are none, so that silence has a word of its own.
LEAST_CHANGE = 0.05
# Frames between which the tilt is compared: as long as a window, so that a shift of half a frame matters
# little.
LAG = 3

Fingerprint = NDArray[np.uint32]


class FingerprintMeter:
    """Bits that tell whether the tilt between neighbouring bands grows or falls, 32 a frame (Haitsma and
    Kalker, 2002).

    It takes slow spectra (see vinyl.core.spectrum) that arrive in blocks; 10.8 frames a second at 44.1 kHz.
    """

    def __init__(self, rate_hz: float) -> None:
        self.frames_per_s = rate_hz / HOP
        edges = np.geomspace(LOWEST_HZ, HIGHEST_HZ, BITS + 2) * WINDOW / rate_hz
        bins = np.arange(KEPT_BINS)
        self._matrix = np.stack([(bins >= a) & (bins < b) for a, b in pairwise(edges)], axis=1).astype(
            np.float32
        )
        self._last = np.zeros((LAG, BITS), np.float32)
        self._loudest = 1e-9
        self._words: list[Fingerprint] = []

    def push(self, magnitudes: NDArray[np.float32]) -> None:
        """Take the next frames (n, bins)."""
        if not len(magnitudes):
            return
        energy = magnitudes**2 @ self._matrix
        tilt = np.diff(np.log(energy + FLOOR * self._loud(energy.max(axis=1))[:, None]), axis=1)
        joined = np.concatenate([self._last, tilt])
        change = joined[LAG:] - joined[:-LAG]
        self._last = joined[-LAG:]
        self._words.append(np.packbits(change > LEAST_CHANGE, axis=1).view(">u4").astype(np.uint32)[:, 0])

    def _loud(self, strongest: NDArray[np.float32]) -> NDArray[np.float32]:
        """The running maximum, which fades frame by frame."""
        faded = np.arange(1, len(strongest) + 1) * np.log(FLOOR_FADE)
        levels = np.maximum(np.log(strongest + 1e-9) - faded, np.log(self._loudest))
        loud = np.exp(np.maximum.accumulate(levels) + faded)
        self._loudest = float(loud[-1])
        floored: NDArray[np.float32] = np.maximum(loud, 1e-9).astype(np.float32)
        return floored

    def finish(self) -> Fingerprint:
        """A word of 32 bits for each frame."""
        return np.concatenate(self._words) if self._words else np.zeros(0, np.uint32)
