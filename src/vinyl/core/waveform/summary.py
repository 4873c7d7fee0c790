"""What the drawing needs: peak, body and low band of the sound at several resolutions, and its onsets."""

from __future__ import annotations

import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import AnalysisError
from vinyl.core.rhythm.onset_times import OnsetTimes

HOP = 256
FACTORS = (1, 8, 64)
MAGIC, OVERVIEW_MAGIC = b"VWF3", b"VWO1"
# Onset times are stored in steps of 10 microseconds.
TICKS_PER_S = 100_000

Bytes = NDArray[np.uint8]
FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class WaveformLevel:
    """Values 0 to 255, one every ``hop`` samples: ``peak`` and ``body`` (RMS) on a linear scale, ``low`` the
    RMS of the low band.
    """

    hop: int
    peak: Bytes
    body: Bytes
    low: Bytes


@dataclass(frozen=True, slots=True)
class WaveformSummary:
    """Levels from fine to coarse, onsets of the low band and of all above it at the finest steps, 0 to
    255, and as points.

    Step i of a level covers samples i * hop to (i + 1) * hop.
    """

    rate_hz: int
    levels: tuple[WaveformLevel, ...]
    onset_low: Bytes
    onset_high: Bytes
    onset_times: OnsetTimes


class SummaryMeter:
    """Summarises a mono signal that arrives in blocks of whole HOPs but for the last."""

    def __init__(self, rate_hz: int) -> None:
        self._rate_hz = rate_hz
        self._rows: list[FloatArray] = []

    def push(self, mono: FloatArray, low: FloatArray) -> None:
        """Take the next block (n,) and its low band."""
        blocks, low_blocks = _blocks(mono), _blocks(low)
        peak = np.maximum(blocks.max(axis=1), -blocks.min(axis=1))
        powers = [np.einsum("ij,ij->i", part, part) / HOP for part in (blocks, low_blocks)]
        self._rows.append(np.stack([peak, *powers]))

    def finish(
        self, onset_low: NDArray[np.float64], onset_high: NDArray[np.float64], onset_times: OnsetTimes
    ) -> WaveformSummary:
        """The summary; the onset envelopes (n,) have steps of HOP and any scale."""
        rows = np.concatenate(self._rows, axis=1) if self._rows else np.zeros((3, 0), np.float32)
        count = rows.shape[1]
        levels = tuple(_level(rows, factor) for factor in FACTORS)
        return WaveformSummary(
            self._rate_hz, levels, _as_bytes(onset_low, count), _as_bytes(onset_high, count), onset_times
        )


def pack(summary: WaveformSummary) -> bytes:
    """The summary as bytes, see docs/formats/waveform.md."""
    parts = [MAGIC, struct.pack("<II", summary.rate_hz, len(summary.levels))]
    for level in summary.levels:
        parts += [
            struct.pack("<II", level.hop, len(level.peak)),
            level.peak.tobytes(),
            level.body.tobytes(),
            level.low.tobytes(),
        ]
    points = summary.onset_times
    parts += [
        summary.onset_low.tobytes(),
        summary.onset_high.tobytes(),
        struct.pack("<I", len(points.times_s)),
    ]
    ticks = np.rint(points.times_s * TICKS_PER_S).clip(0).astype("<u4")
    return b"".join(
        [*parts, ticks.tobytes(), _to_bytes(points.low).tobytes(), _to_bytes(points.high).tobytes()]
    )


def overview(data: bytes) -> bytes:
    """Of packed bytes the level that shows a whole track, by itself: see docs/formats/waveform.md.

    Raises:
        AnalysisError: if they are of an older kind.
    """
    if data[:4] != MAGIC:
        raise AnalysisError("This track's waveform is of an older kind: it waits for its new analysis.")
    rate_hz, _ = struct.unpack_from("<II", data, 4)
    _, finest = struct.unpack_from("<II", data, 12)
    at = 12 + 8 + 3 * finest
    _, count = struct.unpack_from("<II", data, at)
    return OVERVIEW_MAGIC + struct.pack("<I", rate_hz) + data[at : at + 8 + 3 * count]


@dataclass(frozen=True, slots=True)
class StoredOnsets:
    """What the grid's drift and raster are computed from: onsets of both bands at ``rate_hz``, and the
    onset_times.
    """

    rate_hz: float
    low: Bytes
    high: Bytes
    onset_times: OnsetTimes


def unpack_onsets(data: bytes) -> StoredOnsets:
    """The onsets out of packed bytes.

    Raises:
        AnalysisError: if they are of an older kind.
    """
    if data[:4] != MAGIC:
        raise AnalysisError("This track's waveform is of an older kind: it waits for its new analysis.")
    rate_hz, levels = struct.unpack_from("<II", data, 4)
    at, finest = 12, 0
    for level in range(levels):
        _, count = struct.unpack_from("<II", data, at)
        finest = count if level == 0 else finest
        at += 8 + 3 * count
    low, high = (np.frombuffer(data, np.uint8, finest, at + start) for start in (0, finest))
    at += 2 * finest
    (points,) = struct.unpack_from("<I", data, at)
    times = np.frombuffer(data, "<u4", points, at + 4) / TICKS_PER_S
    strengths = [
        np.frombuffer(data, np.uint8, points, at + 4 + 4 * points + start) / 255.0 for start in (0, points)
    ]
    return StoredOnsets(rate_hz / HOP, low, high, OnsetTimes(times, *strengths))


def _level(rows: FloatArray, factor: int) -> WaveformLevel:
    count = -(-rows.shape[1] // factor)
    grouped = np.zeros((3, count * factor), np.float32)
    grouped[:, : rows.shape[1]] = rows
    grouped = grouped.reshape(3, count, factor)
    body, low = (np.sqrt(part.mean(axis=1)) for part in grouped[1:])
    return WaveformLevel(
        HOP * factor, _to_bytes(grouped[0].max(axis=1, initial=0.0)), _to_bytes(body), _to_bytes(low)
    )


def _as_bytes(onset: NDArray[np.float64], count: int) -> Bytes:
    """255 at the 99.5th percentile."""
    scaled = np.zeros(count)
    part = onset[:count]
    scaled[: len(part)] = part / max(float(np.quantile(part, 0.995)) if len(part) else 1.0, 1e-9)
    return _to_bytes(scaled)


def _blocks(signal: FloatArray) -> FloatArray:
    count = -(-len(signal) // HOP)
    padded = np.zeros(count * HOP, np.float32)
    padded[: len(signal)] = signal
    return padded.reshape(count, HOP)


def _to_bytes(values: NDArray[np.floating]) -> Bytes:
    scaled: Bytes = (np.clip(values, 0.0, 1.0) * 255.0 + 0.5).astype(np.uint8)
    return scaled
