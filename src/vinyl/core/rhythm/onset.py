"""Onset envelopes in bands, and a fine envelope that shows where onsets begin."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from vinyl.core.filtering import BlockFilter, low_pass
from vinyl.core.framing import Framer, Rows

# Samples: frames of 23 ms, one every 5.8 ms at 44.1 kHz; fine blocks of 1.5 ms.
HOP = 256
WINDOW = 1024
FINE_HOP = 64
# Bands of equal ratio between these, and where low, middle and high of them part.
BANDS = 30
LOWEST_HZ, HIGHEST_HZ = 35.0, 15000.0
LOW_HZ = 160.0
HIGH_HZ = 2500.0
# All recordings are brought to one level before they are compressed, so that a quiet copy is heard as a loud
# one is: that which this share of the frames does not reach, in the bands below so many Hz.
LEVEL_SHARE, HEARD_HZ = 0.9, 6000.0
# Frames with less than this share of the loudest one are silence.
SILENT_SHARE = 1e-4
# The lambda of log compression (Klapuri et al., 2006) of magnitudes at that level; another keeps them until
# the level is known.
COMPRESSION, KEEPING = 6.0, 100.0
# How many of the bands lie under LOW_HZ.
LOW_BANDS = 7
# Bass and drums of the fine envelope lie below.
LOW_PASS_HZ = 180.0
# Samples that a whole signal is cut into, and fine blocks that are looked at together.
AT_ONCE = 262144
# So many frames and their spectra stay in the processor's cache; so many are brought to their level at once.
FRAMES_AT_ONCE, EVENED_AT_ONCE = 256, 16384

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class OnsetEnvelopes:
    """Onset strength over time.

    ``bands`` are log magnitudes of shape (frames, BANDS) around ``centres_hz``, of a recording brought to one
    level, of half precision for the sake of long mixes; ``low``, ``mid`` and ``high`` are their half-wave
    rectified flux, all at ``rate_hz``.
    ``fine`` has shape (2, n) (low band, everything above) at ``fine_rate_hz``: the rise of log energy in
    blocks so short that an onset is placed to a millisecond.
    """

    centres_hz: FloatArray
    bands: NDArray[np.float16]
    low: FloatArray
    mid: FloatArray
    high: FloatArray
    rate_hz: float
    fine: FloatArray
    fine_rate_hz: float

    def between(self, start_s: float, end_s: float) -> OnsetEnvelopes:
        """The part from one time to another; its times count from the first fine block."""
        part = slice(round(start_s * self.rate_hz), round(end_s * self.rate_hz))
        fine = slice(round(start_s * self.fine_rate_hz), round(end_s * self.fine_rate_hz))
        return replace(
            self,
            bands=self.bands[part],
            low=self.low[part],
            mid=self.mid[part],
            high=self.high[part],
            fine=self.fine[:, fine],
        )


class OnsetMeter:
    """Onset envelopes of a mono signal that arrives in blocks of any size.

    Log-compressed spectral flux after Klapuri et al. (2006).
    """

    def __init__(self, rate_hz: int) -> None:
        self._rate_hz = rate_hz
        self._framer = Framer(WINDOW, HOP)
        self._centres, matrix = _band_matrix(rate_hz)
        self._heard = slice(0, int(np.flatnonzero(matrix.any(axis=1))[-1]) + 1)
        self._matrix = matrix[self._heard]
        self._window = np.hanning(WINDOW + 1)[:-1].astype(np.float32) / (WINDOW / 4)
        self._bands = Rows(np.float16)
        self._low_pass = BlockFilter(low_pass(LOW_PASS_HZ, rate_hz), 1)
        self._last = np.zeros(1, np.float32)
        self._energies = Rows(np.float32), Rows(np.float32)
        self._rest = np.zeros((2, 0), np.float32)

    def push(self, mono: FloatArray) -> FloatArray:
        """Take the next block (n,); gives what lies under LOW_PASS_HZ in it, for others to use."""
        if not len(mono):
            return mono
        self._keep(self._framer.push(mono))
        low: FloatArray = self._low_pass.push(mono[None])[0]
        high = np.diff(mono, prepend=self._last)
        self._last = mono[-1:]
        self._measure(low, high)
        return low

    def finish(self) -> OnsetEnvelopes:
        """The envelopes of all that came."""
        self._keep(self._framer.finish())
        bands = self._bands.join(BANDS)
        _even(bands, self._centres)
        flux = _flux(bands, self._centres)
        rises = [_log_rise(energies.join(1)[:, 0]) for energies in self._energies]
        return OnsetEnvelopes(
            centres_hz=self._centres,
            bands=bands,
            low=flux[:, 0].copy(),
            mid=flux[:, 1].copy(),
            high=flux[:, 2].copy(),
            rate_hz=self._rate_hz / HOP,
            fine=np.stack(rises),
            fine_rate_hz=self._rate_hz / FINE_HOP,
        )

    def _measure(self, *bands: FloatArray) -> None:
        """Energies of whole fine blocks; what is left over waits for the next samples."""
        if self._rest.shape[1]:
            bands = tuple(np.concatenate(pair) for pair in zip(self._rest, bands, strict=True))
        whole = len(bands[0]) // FINE_HOP * FINE_HOP
        for energies, band in zip(self._energies, bands, strict=True):
            energies.add(_block_energies(band[:whole])[:, None])
        self._rest = np.stack([band[whole:] for band in bands])

    def _keep(self, frames: FloatArray) -> None:
        for start in range(0, len(frames), FRAMES_AT_ONCE):
            windowed = frames[start : start + FRAMES_AT_ONCE] * self._window
            spectrum = scipy.fft.rfft(windowed, axis=1, overwrite_x=True)
            self._bands.add(np.log1p(KEEPING * (np.abs(spectrum[:, self._heard]) @ self._matrix)))


def onsets(mono: FloatArray, rate_hz: int) -> OnsetEnvelopes:
    """Onset envelopes of a whole mono signal (n,)."""
    meter = OnsetMeter(rate_hz)
    for start in range(0, len(mono), AT_ONCE):
        meter.push(mono[start : start + AT_ONCE])
    return meter.finish()


def _band_matrix(rate_hz: int) -> tuple[FloatArray, FloatArray]:
    """Centre frequencies in Hz and a (bins, BANDS) matrix of triangles on a logarithmic axis."""
    edges = np.geomspace(LOWEST_HZ, min(HIGHEST_HZ, rate_hz * 0.45), BANDS + 2)
    bins = np.fft.rfftfreq(WINDOW, 1.0 / rate_hz)
    position = np.interp(
        np.log(np.maximum(bins, 1.0)), np.log(edges), np.arange(BANDS + 2), left=-1, right=BANDS + 2
    )
    distance = np.abs(position[:, None] - np.arange(1, BANDS + 1)[None, :])
    matrix = np.maximum(0.0, 1.0 - distance)
    for band in np.flatnonzero(matrix.sum(axis=0) == 0):
        matrix[np.argmin(np.abs(bins - edges[band + 1])), band] = 1.0
    return edges[1:-1].astype(np.float32), matrix.astype(np.float32)


def _band_groups(centres_hz: FloatArray) -> FloatArray:
    """A matrix (BANDS, 3) that gives the means of the low, middle and high bands."""
    low, high = centres_hz < LOW_HZ, centres_hz > HIGH_HZ
    groups = np.stack([low, ~low & ~high, high], axis=1).astype(np.float32)
    means: FloatArray = groups / np.maximum(groups.sum(axis=0), 1.0)
    return means


def _even(bands: NDArray[np.float16], centres_hz: FloatArray) -> None:
    """Bring kept magnitudes (frames, BANDS) to their level and compress them, in place."""
    heard = int(np.searchsorted(centres_hz, HEARD_HZ))
    parts = [slice(at, at + EVENED_AT_ONCE) for at in range(0, len(bands), EVENED_AT_ONCE)]
    means = [np.expm1(bands[part, :heard], dtype=np.float32).mean(axis=1) for part in parts]
    levels = np.concatenate(means) if means else np.zeros(0, np.float32)
    if not levels.any():
        return
    usual = float(np.quantile(levels[levels > SILENT_SHARE * levels.max()], LEVEL_SHARE))
    for part in parts:
        bands[part] = np.log1p(np.expm1(bands[part], dtype=np.float32) * np.float32(COMPRESSION / usual))


def _flux(bands: NDArray[np.float16], centres_hz: FloatArray) -> FloatArray:
    """Half-wave rectified flux (frames, 3) of the low, middle and high bands."""
    flux, say = np.zeros((len(bands), 3), np.float32), _band_groups(centres_hz)
    for at in range(0, len(bands) - 2, EVENED_AT_ONCE):
        part = bands[at : at + EVENED_AT_ONCE + 2].astype(np.float32)
        flux[at + 1 : at + len(part) - 1] = np.maximum(part[2:] - part[:-2], 0.0) @ say
    return flux


def _block_energies(signal: FloatArray) -> FloatArray:
    blocks = signal.reshape(-1, FINE_HOP)
    energies: FloatArray = (np.einsum("ij,ij->i", blocks, blocks) / FINE_HOP).astype(np.float32)
    return energies


def _log_rise(energy: FloatArray) -> FloatArray:
    """How far log energy rises above that of the 6 ms before."""
    rise = np.zeros_like(energy)
    if len(energy) < 5:
        return rise
    floor = np.float32(1e-4 * float(energy.mean(dtype=np.float64)) + 1e-12)
    for at in range(0, len(energy) - 4, AT_ONCE):
        level = np.log(energy[at : at + AT_ONCE + 4] + floor)
        before = (level[:-4] + level[1:-3] + level[2:-2] + level[3:-1]) / 4.0
        rise[at + 4 : at + AT_ONCE + 4] = np.maximum(level[4:] - before, 0.0)
    return rise
