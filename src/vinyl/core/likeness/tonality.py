"""Whether what one recording has and the other has not is made of tones: those of a faint voice stand out of
it as lines, where an encoder leaves noise.
"""

from __future__ import annotations

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from vinyl.core.framing import Framer
from vinyl.core.likeness.residual import EDGES_HZ, RATE_HZ, Mono

# Frames long enough to tell the lines of a tone from each other (0.37 s, 2.7 Hz).
WINDOW, HOP = 8192, 4096
# A band has three gains by which the one is taken from the other; of fewer frames they take too much.
GAINS_PER_BAND, FEWEST_FRAMES = 3, 8
# A power below which there is nothing to tell, and how far below its usual one a band is silent.
LEAST, SILENCE = 1e-12, 1e-3
# More than this is no encoder's noise (docs/accuracy.md).
LARGEST_OF_NOISE = 3.0

_BINS = np.searchsorted(
    np.fft.rfftfreq(WINDOW, 1 / RATE_HZ),
    np.geomspace(EDGES_HZ[0], EDGES_HZ[-1], GAINS_PER_BAND * (len(EDGES_HZ) - 1) + 1),
)
_STARTS = _BINS[:-1] - _BINS[0]


class TonalityMeter:
    """How peaked the spectrum of the residual of two mono signals at ``RATE_HZ`` is; they arrive side
    by side, in blocks of a few seconds.
    """

    def __init__(self) -> None:
        self._framers = Framer(WINDOW, HOP), Framer(WINDOW, HOP)
        self._window = np.hanning(WINDOW + 1)[:-1].astype(np.float32)
        self._moments = [np.zeros((2, 0, len(EDGES_HZ) - 1))]

    def push(self, first: Mono, second: Mono) -> None:
        """The next block (n,) of each."""
        one, other = (
            self._spectra(framer.push(block))
            for framer, block in zip(self._framers, (first, second), strict=True)
        )
        if len(one) >= FEWEST_FRAMES:
            self._moments.append(_moments(np.abs(other - _gains(one, other) * one) ** 2))

    def finish(self) -> float:
        """The mean square of the residual's power over its squared mean, on average of the frames and bands:
        about 2 for noise, more for tones (the kurtosis of a complex spectrum; Antoni, 2006). 2 where nothing
        is left over.
        """
        mean, square = np.concatenate(self._moments, axis=1)
        if not len(mean):
            return 2.0
        sounds = mean > np.maximum(SILENCE * np.median(mean, axis=0), LEAST)
        return float(np.mean(square[sounds] / mean[sounds] ** 2)) if sounds.any() else 2.0

    def _spectra(self, frames: Mono) -> NDArray[np.complex64]:
        spectra: NDArray[np.complex64] = scipy.fft.rfft(frames * self._window, axis=1)
        return spectra[:, _BINS[0] : _BINS[-1]]


def _gains(one: NDArray[np.complex64], other: NDArray[np.complex64]) -> NDArray[np.complex64]:
    """By how much the one is in the other, (bins,): what an equalizer, a delay of less than a sample or a
    level may have changed.
    """
    common = np.add.reduceat((one.conj() * other).sum(axis=0), _STARTS)
    power = np.add.reduceat((np.abs(one) ** 2).sum(axis=0), _STARTS)
    gains: NDArray[np.complex64] = np.repeat(
        common / np.maximum(power, LEAST), np.diff([*_STARTS, one.shape[1]])
    )
    return gains


def _moments(power: NDArray[np.float32]) -> NDArray[np.float64]:
    """The mean and the mean square in each band, (2, frames, bands)."""
    starts = _STARTS[::GAINS_PER_BAND]
    counts = np.diff([*starts, power.shape[1]])
    both = np.stack([power, power**2]).astype(np.float64)
    moments: NDArray[np.float64] = np.add.reduceat(both, starts, axis=2) / counts
    return moments
