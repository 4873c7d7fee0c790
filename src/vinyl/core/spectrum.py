"""Spectra at a quarter of the sample rate with fine frequency resolution, for chroma and fingerprints."""

from __future__ import annotations

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from vinyl.core.filtering import Decimator
from vinyl.core.framing import Framer

DECIMATION = 4
FILTER_TAPS = 81
WINDOW = 4096
HOP = 1024
KEPT_BINS = 1024

FloatArray = NDArray[np.float32]


class SpectrumMeter:
    """Magnitude spectra (frames, KEPT_BINS) of a mono signal that arrives in blocks.

    The signal is slowed to ``rate_hz``; frame i is centred on its sample i * HOP.
    """

    def __init__(self, rate_hz: int) -> None:
        self.rate_hz = rate_hz / DECIMATION
        self._decimator = Decimator(DECIMATION, FILTER_TAPS)
        self._framer = Framer(WINDOW, HOP)
        self._window = np.hanning(WINDOW + 1)[:-1].astype(np.float32)

    def push(self, mono: FloatArray) -> FloatArray:
        """The spectra that are complete with the next block (n,)."""
        return self._spectra(self._framer.push(self._decimator.push(mono)))

    def finish(self) -> FloatArray:
        """The last spectra (n, bins)."""
        last = self._spectra(self._framer.push(self._decimator.finish()))
        return np.concatenate([last, self._spectra(self._framer.finish())])

    def _spectra(self, frames: FloatArray) -> FloatArray:
        spectra: FloatArray = np.abs(scipy.fft.rfft(frames * self._window, axis=1)[:, :KEPT_BINS])
        return spectra
