"""Chroma from spectral peaks, with the tuning of the recording taken out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.fft
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d
from scipy.signal import resample_poly

DECIMATION = 4
WINDOW = 4096
HOP = 1024
LOWEST_HZ = 50.0
HIGHEST_HZ = 2100.0
BASS_HZ = 220.0
FLOOR_BINS = 41
A4_HZ = 440.0
# A peak may be a harmonic of a tone below: semitones down to it, and how likely that is.
HARMONICS = ((0, 1.0), (19, 0.5), (28, 0.25))

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Chroma:
    """Pitch-class strength over time: ``bass`` and ``treble`` of shape (frames, 12), C first.

    ``tuning_cents`` is how far the recording lies from A4 = 440 Hz, -50 to 50; ``tonal_share`` (0 to 1)
    is how much of the sound stands out as steady tones.
    """

    bass: FloatArray
    treble: FloatArray
    rate_hz: float
    tuning_cents: float
    tonal_share: float


@dataclass(frozen=True, slots=True)
class _Peaks:
    frame: NDArray[np.int64]
    midi: NDArray[np.float64]
    strength: NDArray[np.float64]


def chroma(mono: FloatArray, rate_hz: int) -> Chroma:
    """Chroma of a mono signal (n,), from interpolated spectral peaks after Gomez (2006)."""
    slow = resample_poly(mono, 1, DECIMATION).astype(np.float32)
    slow_rate = rate_hz / DECIMATION
    magnitudes = _spectrogram(slow)
    peaks, tonal_share = _find_peaks(magnitudes, slow_rate)
    tuning = _tuning(peaks)
    bass_limit = _midi(np.array([BASS_HZ]))[0]
    low = peaks.midi < bass_limit
    frames = len(magnitudes)
    return Chroma(
        bass=_pitch_classes(peaks, low, tuning, frames),
        treble=_pitch_classes(peaks, ~low, tuning, frames),
        rate_hz=slow_rate / HOP,
        tuning_cents=tuning * 100.0,
        tonal_share=tonal_share,
    )


def _spectrogram(slow: FloatArray) -> FloatArray:
    padded = np.pad(slow, (WINDOW // 2, WINDOW))
    frames = sliding_window_view(padded, WINDOW)[::HOP][: len(slow) // HOP + 1]
    window = np.hanning(WINDOW + 1)[:-1].astype(np.float32)
    spectra = [np.abs(scipy.fft.rfft(frames[i : i + 512] * window, axis=1)) for i in range(0, len(frames), 512)]
    return np.concatenate(spectra)[:, : WINDOW // 4]


def _find_peaks(magnitudes: FloatArray, rate_hz: float) -> tuple[_Peaks, float]:
    """Peaks that stand above the spectrum's own floor, where drums and noise lie."""
    level = np.log1p(magnitudes)
    raised = level - uniform_filter1d(level, FLOOR_BINS, axis=1)
    first, last = int(LOWEST_HZ * WINDOW / rate_hz), min(int(HIGHEST_HZ * WINDOW / rate_hz), level.shape[1] - 2)
    centre, left, right = level[:, first:last], level[:, first - 1 : last - 1], level[:, first + 1 : last + 1]
    is_peak = (centre > left) & (centre >= right) & (raised[:, first:last] > 0.5)
    frame, column = np.nonzero(is_peak)
    a, b, c = left[frame, column], centre[frame, column], right[frame, column]
    part = 0.5 * (a - c) / np.minimum(a - 2 * b + c, -1e-6)
    hz = (column + first + part) * rate_hz / WINDOW
    strength = raised[frame, column + first].astype(np.float64)
    share = float(np.maximum(raised[:, first:last], 0).max(axis=1).mean() / max(float(level.max()), 1e-6))
    return _Peaks(frame, _midi(hz), strength), share


def _midi(hz: NDArray[np.floating]) -> NDArray[np.float64]:
    return 69.0 + 12.0 * np.log2(np.asarray(hz, dtype=np.float64) / A4_HZ)


def _tuning(peaks: _Peaks) -> float:
    """Deviation from equal temperament in semitones, the circular mean over strong peaks."""
    if not len(peaks.midi):
        return 0.0
    audible = peaks.midi > 50
    angle = np.exp(2j * np.pi * peaks.midi[audible])
    mean = np.sum(angle * peaks.strength[audible] ** 2)
    return float(np.angle(mean) / (2 * np.pi)) if abs(mean) > 0 else 0.0


def _pitch_classes(peaks: _Peaks, chosen: NDArray[np.bool_], tuning: float, frames: int) -> FloatArray:
    midi = peaks.midi[chosen] - tuning
    nearest = np.rint(midi)
    near = np.exp(-0.5 * ((midi - nearest) / 0.2) ** 2)
    sums = np.zeros(frames * 12)
    for down, share in HARMONICS:
        index = peaks.frame[chosen] * 12 + (nearest.astype(np.int64) - down) % 12
        sums += np.bincount(index, weights=share * peaks.strength[chosen] * near, minlength=frames * 12)
    return sums.reshape(frames, 12).astype(np.float32)
