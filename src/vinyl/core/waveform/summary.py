"""What the drawing needs: peak, body and low band of the sound, and its onsets, in small steps."""

from __future__ import annotations

import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

HOP = 256
LOW_HZ = 150.0
MAGIC = b"VWF1"

Bytes = NDArray[np.uint8]


@dataclass(frozen=True, slots=True)
class WaveformSummary:
    """Values 0 to 255, one every HOP samples: ``peak`` and ``body`` (RMS) on a linear scale, ``low`` the RMS
    below 150 Hz, ``onset`` the attack strength. Step i covers samples i * HOP to (i + 1) * HOP.
    """

    peak: Bytes
    body: Bytes
    low: Bytes
    onset: Bytes
    rate_hz: float


def summarise(mono: NDArray[np.float32], rate_hz: int, onset: NDArray[np.float64]) -> WaveformSummary:
    """Summarise a mono signal (n,); ``onset`` is an envelope at steps of HOP, any scale."""
    low = sosfilt(butter(2, LOW_HZ, fs=rate_hz, output="sos").astype(np.float32), mono).astype(np.float32, copy=False)
    blocks = _blocks(mono)
    body, low_body = (np.sqrt(np.einsum("ij,ij->i", part, part) / HOP) for part in (blocks, _blocks(low)))
    top = float(np.quantile(onset, 0.995)) if len(onset) else 1.0
    return WaveformSummary(
        peak=_to_bytes(np.maximum(blocks.max(axis=1), -blocks.min(axis=1))),
        body=_to_bytes(body),
        low=_to_bytes(low_body),
        onset=_to_bytes(onset[: len(blocks)] / max(top, 1e-9)),
        rate_hz=rate_hz / HOP,
    )


def pack(summary: WaveformSummary) -> bytes:
    """The summary as bytes: magic, count (uint32), rate in Hz (float64), then peak, body, low, onset, little-endian."""
    count = len(summary.peak)
    onset = np.zeros(count, np.uint8)
    onset[: len(summary.onset)] = summary.onset
    head = MAGIC + struct.pack("<Id", count, summary.rate_hz)
    return head + b"".join(part.tobytes() for part in (summary.peak, summary.body, summary.low, onset))


def _blocks(signal: NDArray[np.float32]) -> NDArray[np.float32]:
    count = -(-len(signal) // HOP)
    padded = np.zeros(count * HOP, np.float32)
    padded[: len(signal)] = signal
    return padded.reshape(count, HOP)


def _to_bytes(values: NDArray[np.floating]) -> Bytes:
    scaled: Bytes = (np.clip(values, 0.0, 1.0) * 255.0 + 0.5).astype(np.uint8)
    return scaled
