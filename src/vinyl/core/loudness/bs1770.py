"""Integrated loudness after ITU-R BS.1770-4, and the sample peak."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.signal import sosfilt

BLOCK_S = 0.4
STEP_S = 0.1
ABSOLUTE_GATE_LUFS = -70.0
RELATIVE_GATE_LU = -10.0
OFFSET_DB = -0.691

FloatArray = NDArray[np.float32]


def integrated_lufs(samples: FloatArray, rate_hz: int) -> float | None:
    """Gated loudness in LUFS of samples (channels, n) with left, right at weight 1; None for silence."""
    powers = _block_powers(samples, rate_hz)
    loud = powers[powers > _power(ABSOLUTE_GATE_LUFS)]
    if not len(loud):
        return None
    gate = _power(_lufs(float(loud.mean())) + RELATIVE_GATE_LU)
    return _lufs(float(loud[loud > gate].mean()))


def sample_peak_db(samples: FloatArray) -> float | None:
    """Largest sample in dB below full scale; None for silence."""
    peak = float(np.abs(samples).max(initial=0.0))
    return 20.0 * math.log10(peak) if peak > 0 else None


def k_weighting(rate_hz: int) -> NDArray[np.float64]:
    """The K filter as second-order sections: a high shelf, then a high pass (BS.1770-4, annex 1), at any rate."""
    return np.stack([_shelf(rate_hz), _high_pass(rate_hz)])


def _shelf(rate_hz: int) -> NDArray[np.float64]:
    k = math.tan(math.pi * 1681.974450955533 / rate_hz)
    q, high = 0.7071752369554196, 10 ** (3.999843853973347 / 20)
    band = high**0.4996667741545416
    a0 = 1 + k / q + k * k
    b = np.array([high + band * k / q + k * k, 2 * (k * k - high), high - band * k / q + k * k])
    return np.concatenate([b / a0, [1, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0]])


def _high_pass(rate_hz: int) -> NDArray[np.float64]:
    k = math.tan(math.pi * 38.13547087602444 / rate_hz)
    q = 0.5003270373238773
    a0 = 1 + k / q + k * k
    return np.array([1, -2, 1, 1, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0])


def _block_powers(samples: FloatArray, rate_hz: int) -> NDArray[np.float64]:
    """Mean square of overlapping blocks, summed over channels."""
    step = round(STEP_S * rate_hz)
    steps = samples.shape[1] // step
    power = np.zeros(steps)
    sections = k_weighting(rate_hz).astype(np.float32)
    for channel in samples:
        weighted = sosfilt(sections, channel)[: steps * step].reshape(steps, step)
        power += np.einsum("ij,ij->i", weighted, weighted, dtype=np.float64) / step
    per_block = round(BLOCK_S / STEP_S)
    if steps < per_block:
        return power[:0]
    return np.convolve(power, np.full(per_block, 1 / per_block), mode="valid")


def _lufs(power: float) -> float:
    return OFFSET_DB + 10.0 * math.log10(power)


def _power(lufs: float) -> float:
    return float(10 ** ((lufs - OFFSET_DB) / 10.0))
