"""What the drawing needs: peak, body and low band of the sound at several resolutions, and its onsets."""

from __future__ import annotations

import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

HOP = 256
LOW_HZ = 150.0
FACTORS = (1, 8, 64)
MAGIC = b"VWF2"

Bytes = NDArray[np.uint8]
FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class WaveformLevel:
    """Values 0 to 255, one every ``hop`` samples: ``peak`` and ``body`` (RMS) on a linear scale, ``low`` the RMS below 150 Hz."""

    hop: int
    peak: Bytes
    body: Bytes
    low: Bytes


@dataclass(frozen=True, slots=True)
class WaveformSummary:
    """Levels from fine to coarse, and attacks of the low band and of all above it at the finest steps, 0 to 255.

    Step i of a level covers samples i * hop to (i + 1) * hop.
    """

    rate_hz: int
    levels: tuple[WaveformLevel, ...]
    onset_low: Bytes
    onset_high: Bytes


class SummaryMeter:
    """Summarises a mono signal that arrives in blocks of whole HOPs but for the last."""

    def __init__(self, rate_hz: int) -> None:
        self._rate_hz = rate_hz
        self._low_pass = butter(2, LOW_HZ, fs=rate_hz, output="sos").astype(np.float32)
        self._state = np.zeros((len(self._low_pass), 2), np.float32)
        self._rows: list[FloatArray] = []

    def push(self, mono: FloatArray) -> None:
        """Take the next block (n,)."""
        low, self._state = sosfilt(self._low_pass, mono, zi=self._state)
        blocks, low_blocks = _blocks(mono), _blocks(low)
        peak = np.maximum(blocks.max(axis=1), -blocks.min(axis=1))
        powers = [np.einsum("ij,ij->i", part, part) / HOP for part in (blocks, low_blocks)]
        self._rows.append(np.stack([peak, *powers]))

    def finish(self, onset_low: NDArray[np.float64], onset_high: NDArray[np.float64]) -> WaveformSummary:
        """The summary; the onset envelopes have steps of HOP and any scale."""
        rows = np.concatenate(self._rows, axis=1) if self._rows else np.zeros((3, 0), np.float32)
        count = rows.shape[1]
        return WaveformSummary(
            self._rate_hz, tuple(_level(rows, factor) for factor in FACTORS), _attacks(onset_low, count), _attacks(onset_high, count)
        )


def pack(summary: WaveformSummary) -> bytes:
    """The summary as bytes, see docs/formats/waveform.md."""
    parts = [MAGIC, struct.pack("<II", summary.rate_hz, len(summary.levels))]
    for level in summary.levels:
        parts += [struct.pack("<II", level.hop, len(level.peak)), level.peak.tobytes(), level.body.tobytes(), level.low.tobytes()]
    return b"".join([*parts, summary.onset_low.tobytes(), summary.onset_high.tobytes()])


def _level(rows: FloatArray, factor: int) -> WaveformLevel:
    count = -(-rows.shape[1] // factor)
    grouped = np.zeros((3, count * factor), np.float32)
    grouped[:, : rows.shape[1]] = rows
    grouped = grouped.reshape(3, count, factor)
    body, low = (np.sqrt(part.mean(axis=1)) for part in grouped[1:])
    return WaveformLevel(HOP * factor, _to_bytes(grouped[0].max(axis=1, initial=0.0)), _to_bytes(body), _to_bytes(low))


def _attacks(onset: NDArray[np.float64], count: int) -> Bytes:
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
