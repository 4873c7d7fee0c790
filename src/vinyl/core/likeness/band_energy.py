"""Energies of third-octave bands through a recording, and how far two recordings differ in them: a voice that
one has and the other has not stands out where an encoder's noise does not.
"""

from __future__ import annotations

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from vinyl.core.framing import Framer

# The signal's rate, and frames of 93 ms that are added up, five of them to a cell (0.23 s).
RATE_HZ = 22050
WINDOW, HOP, FRAMES_PER_CELL = 2048, 1024, 5
CELL_S = FRAMES_PER_CELL * HOP / RATE_HZ
# Edges of the bands: what encoders leave out lies above them.
EDGES_HZ = 200.0 * 2.0 ** (np.arange(16) / 3)
# A band masks those beside it, so many dB weaker with each (Zwicker and Fastl, 1990, roughly).
MASKING_DB = 4.0
# What is so far below a band's usual energy is silence.
SILENCE = 0.1
# Cells that are taken together (a word of a second, a line of four), and the largest difference that encoders
# of 96 kbit/s and more make there, in shares of what the bands mask.
SPANS = {4: 1.45, 17: 0.45}
# Powers below which nothing is told.
LEAST, FAINT = 1e-9, 1e-7

Energies = NDArray[np.float32]


class BandMeter:
    """Adds up the energies of bands of a mono signal at ``RATE_HZ`` that arrives in blocks.

    Args:
        skip: samples that are left out before the first cell.
    """

    def __init__(self, skip: int = 0) -> None:
        self._skip = skip
        self._framer = Framer(WINDOW, HOP)
        self._window = np.hanning(WINDOW + 1)[:-1].astype(np.float32)
        bins = np.searchsorted(np.fft.rfftfreq(WINDOW, 1 / RATE_HZ), EDGES_HZ)
        self._first, self._last = int(bins[0]), int(bins[-1])
        self._starts = bins[:-1] - bins[0]
        self._frames: list[Energies] = []

    def push(self, mono: NDArray[np.float32]) -> None:
        """The next block (n,)."""
        left = mono[self._skip :]
        self._skip -= len(mono) - len(left)
        if len(left):
            self._add(self._framer.push(left))

    def finish(self) -> Energies:
        """The energies (cells, bands) of all whole cells."""
        frames = (
            np.concatenate(self._frames) if self._frames else np.zeros((0, len(self._starts)), np.float32)
        )
        whole = len(frames) // FRAMES_PER_CELL * FRAMES_PER_CELL
        energies: Energies = frames[:whole].reshape(-1, FRAMES_PER_CELL, frames.shape[1]).sum(axis=1)
        return energies

    def _add(self, frames: NDArray[np.float32]) -> None:
        spectra = scipy.fft.rfft(frames * self._window, axis=1)[:, self._first : self._last]
        power = spectra.real**2 + spectra.imag**2
        self._frames.append(np.add.reduceat(power, self._starts, axis=1))


def difference(first: Energies, second: Energies) -> float:
    """How far two recordings, (cells, bands) each from one moment on, differ at most: more than about 1 where
    one has something that the other has not. What is the same all through, as a gain or an equalizer, is no
    difference. Limits of this and of SPANS were found on made-up pieces (docs/accuracy.md).
    """
    cells = min(len(first), len(second))
    if cells < max(SPANS):
        return 0.0
    here, there = first[:cells].astype(np.float64), second[:cells].astype(np.float64)
    usual = np.maximum(np.median(here, axis=0), max(FAINT * float(here.max()), LEAST))
    there = there / _gains(here, there)
    return max(_largest(here, there, usual, span) / limit for span, limit in SPANS.items())


def _gains(first: NDArray[np.float64], second: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how much each band of the second is louder: the median of the cells, each as weighty as it is loud,
    so that noise in pauses does not count.
    """
    ratios = second / np.maximum(first, LEAST)
    order = np.argsort(ratios, axis=0)
    weights = np.cumsum(np.take_along_axis(first, order, axis=0), axis=0)
    middle = np.argmax(weights >= 0.5 * weights[-1], axis=0)
    gains = np.take_along_axis(np.take_along_axis(ratios, order, axis=0), middle[None], axis=0)[0]
    return np.where(gains > 0.0, gains, 1.0)


def _largest(
    first: NDArray[np.float64], second: NDArray[np.float64], usual: NDArray[np.float64], span: int
) -> float:
    """The largest difference of any band over some cells, in shares of what is masked there."""
    one, other = _sums(first, span), _sums(second, span)
    masked = np.maximum(_masked(np.minimum(one, other)), SILENCE * span * usual)
    return float((np.abs(other - one) / masked).max())


def _sums(cells: NDArray[np.float64], span: int) -> NDArray[np.float64]:
    totals = np.concatenate([np.zeros((1, cells.shape[1])), np.cumsum(cells, axis=0)])
    sums: NDArray[np.float64] = totals[span:] - totals[:-span]
    return sums


def _masked(bands: NDArray[np.float64]) -> NDArray[np.float64]:
    """What each band hides, by itself and by those beside it."""
    slope = 10.0 ** (-MASKING_DB / 10.0)
    masked = bands.copy()
    for band in range(1, bands.shape[1]):
        masked[:, band] = np.maximum(masked[:, band], slope * masked[:, band - 1])
    for band in range(bands.shape[1] - 2, -1, -1):
        masked[:, band] = np.maximum(masked[:, band], slope * masked[:, band + 1])
    return masked
