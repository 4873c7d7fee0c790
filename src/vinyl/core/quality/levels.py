"""Levels over time: where sound begins and ends, what is clipped, how the two channels go together."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

# What counts as silence (-60 dB of full scale), and blocks in which the level at the end is measured.
SILENT = 1e-3
BLOCK_S = 0.05
# So many samples running at one height, near full scale, are clipped; lossy formats round such heights off.
CLIPPED_RUN = 4
NEAR_FULL = 0.985
SAME_HEIGHT = 1e-4
# Samples that are looked at together from the end, for the last sound.
CHUNK = 8192
# Clipped places of which the times are kept.
MOST_PLACES = 50

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Levels:
    """What was measured of samples.

    ``first_s`` and ``last_s`` are when sound is first and last heard (None for silence), ``clipped_s`` the
    times of the first clipped places of ``clipped``; ``dc`` is the largest mean of a channel, ``power`` the
    mean squares of left, right and left times right; ``end`` and ``usual`` are root mean squares of the last
    block that sounds and of the whole.
    """

    duration_s: float
    channels: int
    first_s: float | None
    last_s: float | None
    clipped: int
    clipped_s: tuple[float, ...]
    dc: float
    power: tuple[float, float, float]
    end: float
    usual: float


class LevelMeter:
    """Takes samples (channels, n) that arrive in blocks."""

    def __init__(self, rate_hz: int, channels: int) -> None:
        self._rate_hz, self._channels = rate_hz, channels
        self._seen = 0
        self._first = self._last = -1
        self._sums = np.zeros(channels)
        self._products = np.zeros(3)
        self._clipped: list[int] = []
        self._count = 0
        self._tail = np.zeros(0, np.float32)

    def push(self, samples: FloatArray) -> None:
        """Take the next samples (channels, n)."""
        if not samples.shape[1]:
            return
        self._sums += samples.sum(axis=1)
        left, right = samples[0], samples[-1]
        self._products += [np.dot(left, left), np.dot(right, right), np.dot(left, right)]
        peak = max(float(samples.max()), -float(samples.min()))
        if peak > SILENT:
            self._note_sound(samples)
        if peak > NEAR_FULL:
            self._find_clipped(samples)
        self._seen += samples.shape[1]

    def _note_sound(self, samples: FloatArray) -> None:
        """Where sound is first and last heard, and the heights before the last."""
        if self._first < 0:
            self._first = self._seen + int(np.argmax(np.abs(samples).max(axis=0) > SILENT))
        for start in range((samples.shape[1] - 1) // CHUNK * CHUNK, -1, -CHUNK):
            sounding = np.flatnonzero(np.abs(samples[:, start : start + CHUNK]).max(axis=0) > SILENT)
            if len(sounding):
                end = start + int(sounding[-1]) + 1
                self._last = self._seen + end - 1
                first = max(end - round(BLOCK_S * self._rate_hz), 0)
                self._tail = np.abs(samples[:, first:end]).max(axis=0)
                return

    def finish(self) -> Levels:
        """What was measured."""
        power = self._products / max(self._seen, 1)
        return Levels(
            duration_s=self._seen / self._rate_hz,
            channels=self._channels,
            first_s=self._first / self._rate_hz if self._first >= 0 else None,
            last_s=self._last / self._rate_hz if self._last >= 0 else None,
            clipped=self._count,
            clipped_s=tuple(place / self._rate_hz for place in sorted(self._clipped)[:MOST_PLACES]),
            dc=float(np.abs(self._sums).max(initial=0.0) / max(self._seen, 1)),
            power=(float(power[0]), float(power[1]), float(power[2])),
            end=float(np.sqrt(np.square(self._tail, dtype=np.float64).mean())) if len(self._tail) else 0.0,
            usual=float(np.sqrt((power[0] + power[1]) / 2)),
        )

    def _find_clipped(self, samples: FloatArray) -> None:
        """Starts of runs of samples that stay at one height near full scale."""
        for channel in samples:
            high = np.flatnonzero(np.abs(channel) > NEAR_FULL)
            goes_on = (np.diff(high) == 1) & (np.abs(np.diff(channel[high])) < SAME_HEIGHT)
            edges = np.flatnonzero(np.diff(goes_on, prepend=False, append=False))
            starts, ends = edges[::2], edges[1::2]
            runs = high[starts[ends - starts >= CLIPPED_RUN - 1]]
            self._count += len(runs)
            self._clipped += [self._seen + int(start) for start in runs[:MOST_PLACES]]
