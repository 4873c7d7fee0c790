"""Onsets as points in time: what a line of the grid is snapped to, and what its drift is measured against."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm.onset import OnsetEnvelopes

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Onsets closer together are heard as one.
APART_S = 0.03
# Strengths are shares of what the strongest half percent of the track has; weaker ones than this are noise.
LOUD_QUANTILE = 0.995
LEAST_SHARE = 0.12
# How far a line of the grid can be snapped, and how much of its strength an onset loses on the way there.
REACH_S = 0.06
FAR_COST = 0.8
# Blocks that are looked at together, so that a long mix costs little memory.
STRETCH = 1 << 18

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class OnsetTimes:
    """Onsets in order of time: ``times_s``, and how strong (0 to 1) in the ``low`` band and in all above it
    (``high``).
    """

    times_s: FloatArray
    low: FloatArray
    high: FloatArray

    @property
    def strength(self) -> FloatArray:
        """The stronger of both bands, (n,)."""
        return np.maximum(self.low, self.high)

    def nearest(self, time_s: float) -> float:
        """The most fitting onset near a time: strong ones draw from farther away.

        Raises:
            TempoMapError: if there is none within REACH_S.
        """
        first, last = np.searchsorted(self.times_s, [time_s - REACH_S, time_s + REACH_S])
        if first == last:
            raise TempoMapError(
                f"There is no attack within {1000 * REACH_S:.0f} ms of {time_s:.3f} s to snap to."
            )
        away = np.abs(self.times_s[first:last] - time_s) / REACH_S
        return float(
            self.times_s[first + int(np.argmax(self.strength[first:last] * (1.0 - FAR_COST * away)))]
        )


def find_onset_times(onsets: OnsetEnvelopes) -> OnsetTimes:
    """Peaks of the fine onset envelope that stand out for 30 ms around; each is placed where its rise begins
    to tell.
    """
    scales = [_scale(band) for band in onsets.fine]
    width = round(APART_S * onsets.fine_rate_hz)
    count = onsets.fine.shape[1]
    parts = [
        _peaks_in(
            onsets.fine[:, max(0, at - 2 * width) : at + STRETCH + 2 * width],
            scales,
            width,
            min(at, 2 * width),
        )
        for at in range(0, count, STRETCH)
    ]
    offsets = [max(0, at - 2 * width) for at in range(0, count, STRETCH)]
    rows = [
        np.stack([places + offset, low, high])
        for offset, (places, low, high) in zip(offsets, parts, strict=True)
    ]
    places, low, high = np.concatenate(rows, axis=1) if rows else np.zeros((3, 0))
    return OnsetTimes(places / onsets.fine_rate_hz, low, high)


def _peaks_in(
    fine: NDArray[np.float32], scales: list[float], width: int, skipped: int
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Places and strengths of the peaks of one stretch; its first ``skipped`` blocks, and those after it, are
    its neighbours'.
    """
    low, high = (
        np.clip(band.astype(np.float64) * scale, 0.0, 1.0) for band, scale in zip(fine, scales, strict=True)
    )
    total = np.maximum(low, high)
    peaks = np.flatnonzero((total == maximum_filter1d(total, 2 * width + 1)) & (total > LEAST_SHARE))
    peaks = peaks[np.diff(peaks, prepend=-2 * width) > width // 2]
    peaks = peaks[(peaks >= skipped) & (peaks < skipped + STRETCH)]
    reach = (peaks[:, None] + np.arange(-width // 2, width // 2 + 1)[None, :]).clip(0, len(total) - 1)
    return _centres(total, peaks), low[reach].max(axis=1), high[reach].max(axis=1)


def _scale(band: NDArray[np.float32]) -> float:
    loud = (float(np.quantile(band, LOUD_QUANTILE)) or float(band.max())) if len(band) else 0.0
    return 1.0 / loud if loud > 0 else 0.0


def _centres(total: FloatArray, peaks: NDArray[np.int64]) -> FloatArray:
    """Where the envelope first reaches half of the peak, between blocks."""
    steps = np.arange(6, -1, -1)
    before = total[(peaks[:, None] - steps[None, :]).clip(0)]
    half = 0.5 * total[peaks]
    first = np.argmax(before >= half[:, None], axis=1)
    rows = np.arange(len(peaks))
    high = before[rows, first]
    low = np.where(first > 0, before[rows, np.maximum(first - 1, 0)], 0.0)
    part = np.clip((half - low) / np.maximum(high - low, 1e-9), 0.0, 1.0)
    centres: FloatArray = peaks - steps[first] + part
    return centres
