"""The true peak: the largest value between the samples too, after ITU-R BS.1770-4, annex 2."""

from __future__ import annotations

import math

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from vinyl.core.filtering import windowed_sinc

OVERSAMPLING = 8
TAPS = 32
CUTOFF = 0.97
# Between two samples of one sign the signal rises at most this much over the larger, in music; only such
# places are looked at.
LARGEST_RISE = 1.5
AT_ONCE = 65536

FloatArray = NDArray[np.float32]


class PeakMeter:
    """Finds the true peak of samples (channels, n) that arrive in blocks."""

    def __init__(self, channels: int) -> None:
        self._tail = np.zeros((channels, TAPS - 1), np.float32)
        self._phases = _phases()
        self._best = 0.0

    def push(self, samples: FloatArray) -> None:
        """Take the next samples (channels, n), of any length."""
        joined = np.concatenate([self._tail, samples], axis=1)
        self._tail = joined[:, -(TAPS - 1) :]
        sizes = np.abs(joined[:, TAPS // 2 - 1 : joined.shape[1] - TAPS // 2 + 1])
        self._best = max(self._best, float(sizes.max(initial=0.0)))
        for channel, size in zip(joined, sizes, strict=True):
            self._look_between(channel, size > self._best / LARGEST_RISE)

    def finish_db(self) -> float | None:
        """The true peak in dB below full scale; None for silence."""
        self.push(np.zeros((len(self._tail), TAPS), np.float32))
        return 20.0 * math.log10(self._best) if self._best > 0 else None

    def _look_between(self, channel: FloatArray, large: NDArray[np.bool_]) -> None:
        """Oversample where samples come near the largest value so far."""
        near = np.flatnonzero(large[:-1] | large[1:])
        windows = sliding_window_view(channel, TAPS)
        for start in range(0, len(near), AT_ONCE):
            values = windows[near[start : start + AT_ONCE]] @ self._phases
            self._best = max(self._best, float(np.abs(values).max(initial=0.0)))


def true_peak_db(samples: FloatArray) -> float | None:
    """True peak in dB below full scale of whole samples (channels, n); None for silence."""
    meter = PeakMeter(len(samples))
    meter.push(samples)
    return meter.finish_db()


def _phases() -> FloatArray:
    """Interpolators for the points between two samples, (TAPS, OVERSAMPLING - 1)."""
    prototype = windowed_sinc(CUTOFF / OVERSAMPLING, np.kaiser(OVERSAMPLING * TAPS + 1, 9.0)) * OVERSAMPLING
    points = [prototype[phase::OVERSAMPLING][:TAPS][::-1] for phase in range(1, OVERSAMPLING)]
    return np.stack(points, axis=1).astype(np.float32)
