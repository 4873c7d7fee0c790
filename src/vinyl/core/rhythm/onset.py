"""Onset envelopes in bands, and a fine envelope that shows where attacks begin."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy.fft
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

HOP = 256
WINDOW = 1024
FINE_HOP = 64
BANDS = 30
LOW_HZ = 160.0
HIGH_HZ = 2500.0
COMPRESSION = 100.0
BLOCK_FRAMES = 4096

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Onsets:
    """Onset strength over time.

    ``bands`` are log energies of shape (frames, BANDS); ``low``, ``mid`` and ``high`` their half-wave
    rectified flux, all at ``rate_hz``. ``fine`` has shape (2, n) (low band, everything above) at
    ``fine_rate_hz``: the rise of log energy in blocks so short that an attack is placed to a millisecond.
    """

    bands: FloatArray
    low: FloatArray
    mid: FloatArray
    high: FloatArray
    rate_hz: float
    fine: FloatArray
    fine_rate_hz: float

    def between(self, start_s: float, end_s: float) -> Onsets:
        """The part from one time to another; its times count from the first fine block."""
        part = slice(round(start_s * self.rate_hz), round(end_s * self.rate_hz))
        fine = slice(round(start_s * self.fine_rate_hz), round(end_s * self.fine_rate_hz))
        return replace(self, bands=self.bands[part], low=self.low[part], mid=self.mid[part], high=self.high[part], fine=self.fine[:, fine])


def onsets(mono: FloatArray, rate_hz: int) -> Onsets:
    """Onset envelopes of a mono signal (n,), after the log-compressed spectral flux of Klapuri et al. (2006)."""
    centres, matrix = _band_matrix(rate_hz)
    bands = np.log1p(COMPRESSION * _band_energies(mono, matrix))
    flux = np.maximum(bands[2:] - bands[:-2], 0.0)
    flux = np.concatenate([np.zeros((1, BANDS), np.float32), flux, np.zeros((1, BANDS), np.float32)])
    low, high = centres < LOW_HZ, centres > HIGH_HZ
    return Onsets(
        bands=bands,
        low=flux[:, low].mean(axis=1),
        mid=flux[:, ~low & ~high].mean(axis=1),
        high=flux[:, high].mean(axis=1),
        rate_hz=rate_hz / HOP,
        fine=_fine_rise(mono, rate_hz),
        fine_rate_hz=rate_hz / FINE_HOP,
    )


def _band_matrix(rate_hz: int) -> tuple[FloatArray, FloatArray]:
    """Centre frequencies in Hz and a (bins, BANDS) matrix of triangles on a logarithmic axis."""
    edges = np.geomspace(35.0, min(15000.0, rate_hz * 0.45), BANDS + 2)
    bins = np.fft.rfftfreq(WINDOW, 1.0 / rate_hz)
    position = np.interp(np.log(np.maximum(bins, 1.0)), np.log(edges), np.arange(BANDS + 2), left=-1, right=BANDS + 2)
    distance = np.abs(position[:, None] - np.arange(1, BANDS + 1)[None, :])
    matrix = np.maximum(0.0, 1.0 - distance)
    for band in np.flatnonzero(matrix.sum(axis=0) == 0):
        matrix[np.argmin(np.abs(bins - edges[band + 1])), band] = 1.0
    return edges[1:-1].astype(np.float32), matrix.astype(np.float32)


def _band_energies(mono: FloatArray, matrix: FloatArray) -> FloatArray:
    """Magnitudes per band, (frames, BANDS); frame i is centred on sample i * HOP."""
    padded = np.pad(mono, (WINDOW // 2, WINDOW))
    frames = sliding_window_view(padded, WINDOW)[::HOP][: len(mono) // HOP + 1]
    window = np.hanning(WINDOW + 1)[:-1].astype(np.float32) / (WINDOW / 4)
    energies = np.empty((len(frames), matrix.shape[1]), np.float32)
    for start in range(0, len(frames), BLOCK_FRAMES):
        spectrum = scipy.fft.rfft(frames[start : start + BLOCK_FRAMES] * window, axis=1)
        energies[start : start + BLOCK_FRAMES] = np.abs(spectrum) @ matrix
    return energies


def _fine_rise(mono: FloatArray, rate_hz: int) -> FloatArray:
    low = sosfilt(butter(2, 180.0, fs=rate_hz, output="sos").astype(np.float32), mono).astype(np.float32, copy=False)
    high = np.diff(mono, prepend=mono[:1])
    return np.stack([_log_rise(low), _log_rise(high)])


def _log_rise(signal: FloatArray) -> FloatArray:
    """How far log energy rises above that of the 6 ms before, a value every FINE_HOP samples."""
    whole = len(signal) // FINE_HOP * FINE_HOP
    blocks = signal[:whole].reshape(-1, FINE_HOP)
    energy = np.einsum("ij,ij->i", blocks, blocks) / FINE_HOP
    floor = 1e-4 * float(energy.mean()) + 1e-12
    level = np.log(energy + floor)
    before = (level[:-4] + level[1:-3] + level[2:-2] + level[3:-1]) / 4.0
    rise = np.zeros_like(level)
    rise[4:] = np.maximum(level[4:] - before, 0.0)
    result: FloatArray = rise.astype(np.float32)
    return result
