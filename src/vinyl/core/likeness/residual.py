"""What one of two aligned recordings has and the other has not: what is left of each band where the other is
taken from it. A voice is left over, an encoder's noise stays under what the recording itself masks.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.signal import correlate

from vinyl.core.framing import Framer

# The signals' rate, and frames of 93 ms that are added up, five of them to a cell (0.23 s).
RATE_HZ = 22050
WINDOW, HOP, FRAMES_PER_CELL = 2048, 1024, 5
CELL_S = FRAMES_PER_CELL * HOP / RATE_HZ
# Edges of the bands, third octaves; above them encoders put noise instead of sound.
EDGES_HZ = 200.0 * 2.0 ** (np.arange(14) / 3)
# A band masks those beside it, so many dB weaker with each, and a cell those before and after it by so much
# of its energy (Zwicker and Fastl, 1990, roughly).
MASKING_DB, MASKING_IN_TIME = 4.0, 0.1
# What is so far below a band's usual energy is silence.
SILENCE = 0.1
# Cells taken together (a word, a line), and what may be left over there, in shares of what is masked.
SPANS = {4: 0.6, 17: 0.3}
# Where so much is left over half of the time, the two do not run side by side to the sample; then energies
# alone are compared, which encoders change by so much.
APART, APART_SPANS = 0.3, {4: 1.45, 17: 0.45}
# Powers below which nothing is told.
LEAST, FAINT = 1e-9, 1e-7
# How far two recordings may be shifted beside what is known of it, and how much of them tells by how much.
REACH, TELLING = 2048, 40 * RATE_HZ

Mono = NDArray[np.float32]
Cells = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Spectra:
    """Energies of the first and the second recording, and of what they have in common: (cells, bands)."""

    first: Cells
    second: Cells
    common: Cells


class SpectraMeter:
    """Adds up the spectra of two mono signals at ``RATE_HZ`` that arrive side by side in blocks."""

    def __init__(self) -> None:
        self._framers = Framer(WINDOW, HOP), Framer(WINDOW, HOP)
        self._window = np.hanning(WINDOW + 1)[:-1].astype(np.float32)
        bins = np.searchsorted(np.fft.rfftfreq(WINDOW, 1 / RATE_HZ), EDGES_HZ)
        self._first, self._last = int(bins[0]), int(bins[-1])
        self._starts = bins[:-1] - bins[0]
        self._frames: list[NDArray[np.complex64]] = []

    def push(self, first: Mono, second: Mono) -> None:
        """The next block (n,) of each."""
        one, other = (
            self._spectra(framer.push(block))
            for framer, block in zip(self._framers, (first, second), strict=True)
        )
        self._frames.append(
            np.stack(
                [self._banded(each) for each in (one * one.conj(), other * other.conj(), one.conj() * other)]
            )
        )

    def finish(self) -> Spectra:
        """All whole cells."""
        bands = len(self._starts)
        frames = np.concatenate([np.zeros((3, 0, bands), np.complex64), *self._frames], axis=1)
        whole = frames.shape[1] // FRAMES_PER_CELL * FRAMES_PER_CELL
        cells = frames[:, :whole].reshape(3, -1, FRAMES_PER_CELL, bands).astype(np.complex128).sum(axis=2)
        common = np.abs(cells[2]) ** 2 / np.maximum(cells[0].real * cells[1].real, LEAST**2)
        return Spectra(cells[0].real, cells[1].real, np.minimum(common, 1.0))

    def _spectra(self, frames: Mono) -> NDArray[np.complex64]:
        spectra: NDArray[np.complex64] = scipy.fft.rfft(frames * self._window, axis=1)
        return spectra[:, self._first : self._last]

    def _banded(self, bins: NDArray[np.complex64]) -> NDArray[np.complex64]:
        return np.add.reduceat(bins, self._starts, axis=1).astype(np.complex64)


def find_lag(first: Mono, second: Mono) -> int:
    """By how many samples the second is behind the first, up to ``REACH`` (negative: before it)."""
    length = min(len(first), len(second), TELLING)
    if length <= 2 * REACH:
        return 0
    inner = first[REACH : length - REACH]
    return int(np.argmax(np.abs(correlate(second[:length], inner, "valid")))) - REACH


def difference(spectra: Spectra) -> float:
    """How much of one recording is not in the other where that is most: more than about 1 where one has
    something of its own at two moments or more, 1 where it is at one (an encoder may lose a first beat).

    What is the same all through, as a gain or an equalizer, is no difference. Two that do not run side by
    side to the sample (another transfer) differ by 1 or more: they are never sure.

    The residual is what the coherence of a cell leaves (Carter, 1987). Limits were found on made-up pieces
    (docs/accuracy.md).
    """
    if len(spectra.first) < max(SPANS):
        return 0.0
    second = spectra.second / _gains(spectra.first, spectra.second)
    left = np.maximum(spectra.first, second) * (1.0 - spectra.common)
    masked = _masked(np.minimum(spectra.first, second))
    usual = np.median(spectra.first, axis=0)
    masked = np.maximum(masked, np.maximum(SILENCE * usual, max(FAINT * float(spectra.first.max()), LEAST)))
    found, again = _largest(left, masked, SPANS)
    span = min(SPANS)
    if np.median(_sums(left, span) / _sums(masked, span), axis=0).max() > APART:
        found, again = 1.0, _largest(second - spectra.first, masked, APART_SPANS)[1]
    return max(min(found, 1.0), again)


def _largest(cells: Cells, masked: Cells, limits: Mapping[int, float]) -> tuple[float, float]:
    """The largest sum over some cells of any band beside what is masked there and may be, by spans; and the
    largest that shares no cell with that one.
    """
    found, again = 0.0, 0.0
    for span, limit in limits.items():
        shares = (np.abs(_sums(cells, span)) / _sums(masked, span)).max(axis=1) / limit
        at = int(np.argmax(shares))
        rest = np.concatenate([shares[: max(0, at - span)], shares[at + span :], [0.0]])
        found, again = max(found, float(shares[at])), max(again, float(rest.max()))
    return found, again


def _gains(first: Cells, second: Cells) -> Cells:
    """By how much each band of the second is louder: the median of the cells, each as weighty as it is loud,
    so that noise in pauses does not count.
    """
    ratios = second / np.maximum(first, LEAST)
    order = np.argsort(ratios, axis=0)
    weights = np.cumsum(np.take_along_axis(first, order, axis=0), axis=0)
    middle = np.argmax(weights >= 0.5 * weights[-1], axis=0)
    gains = np.take_along_axis(np.take_along_axis(ratios, order, axis=0), middle[None], axis=0)[0]
    return np.where(gains > 0.0, gains, 1.0)


def _sums(cells: Cells, span: int) -> Cells:
    totals = np.concatenate([np.zeros((1, cells.shape[1])), np.cumsum(cells, axis=0)])
    sums: Cells = totals[span:] - totals[:-span]
    return sums


def _masked(cells: Cells) -> Cells:
    """What each band hides, by itself, by those beside it, and by itself just before and after."""
    slope = 10.0 ** (-MASKING_DB / 10.0)
    masked = cells.copy()
    for band in range(1, cells.shape[1]):
        masked[:, band] = np.maximum(masked[:, band], slope * masked[:, band - 1])
    for band in range(cells.shape[1] - 2, -1, -1):
        masked[:, band] = np.maximum(masked[:, band], slope * masked[:, band + 1])
    around = masked.copy()
    around[1:] = np.maximum(around[1:], MASKING_IN_TIME * masked[:-1])
    around[:-1] = np.maximum(around[:-1], MASKING_IN_TIME * masked[1:])
    return around
