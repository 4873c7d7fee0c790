"""Loudness after ITU-R BS.1770-4 and EBU R 128: integrated, range, and the gain to a target."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.filtering import BlockFilter

BLOCK_S = 0.4
SHORT_TERM_S = 3.0
STEP_S = 0.1
ABSOLUTE_GATE_LUFS = -70.0
RELATIVE_GATE_LU = -10.0
RANGE_GATE_LU = -20.0
RANGE_PERCENTILES = (10, 95)
OFFSET_DB = -0.691

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Loudness:
    """Integrated loudness in LUFS and loudness range in LU; None where nothing passes the gate."""

    integrated_lufs: float | None
    range_lu: float | None


class LoudnessMeter:
    """Measures samples (channels, n) that arrive in blocks, left and right at weight 1."""

    def __init__(self, rate_hz: int, channels: int) -> None:
        self._weighting = BlockFilter(k_weighting(rate_hz), channels)
        self._step = round(STEP_S * rate_hz)
        self._rest = np.zeros((channels, 0), np.float32)
        self._powers: list[NDArray[np.float64]] = []

    def push(self, samples: FloatArray) -> None:
        """Take the next samples (channels, n), of any length."""
        weighted = np.concatenate([self._rest, self._weighting.push(samples)], axis=1)
        steps = weighted.shape[1] // self._step
        self._rest = weighted[:, steps * self._step :]
        blocks = weighted[:, : steps * self._step].reshape(len(samples), steps, self._step)
        self._powers.append(np.einsum("cij,cij->i", blocks, blocks).astype(np.float64) / self._step)

    def finish(self) -> Loudness:
        """Integrated loudness and range (EBU Tech 3342) of all that came."""
        steps = np.concatenate(self._powers) if self._powers else np.zeros(0)
        return Loudness(_integrated(_windowed(steps, BLOCK_S)), _range(_windowed(steps, SHORT_TERM_S)))


def measure_loudness(samples: FloatArray, rate_hz: int) -> Loudness:
    """Loudness of whole samples (channels, n)."""
    meter = LoudnessMeter(rate_hz, len(samples))
    meter.push(samples)
    return meter.finish()


def gain_db(lufs: float, true_peak_db: float, target_lufs: float, ceiling_db: float = -1.0) -> float:
    """Gain in dB that brings a track to a loudness without its true peak passing the ceiling."""
    return min(target_lufs - lufs, ceiling_db - true_peak_db)


def _integrated(powers: NDArray[np.float64]) -> float | None:
    loud = _gated(powers, RELATIVE_GATE_LU)
    return _lufs(float(loud.mean())) if len(loud) else None


def _range(powers: NDArray[np.float64]) -> float | None:
    loud = _gated(powers, RANGE_GATE_LU)
    if not len(loud):
        return None
    low, high = np.percentile(loud, RANGE_PERCENTILES, method="lower")
    return _lufs(float(high)) - _lufs(float(low))


def _gated(powers: NDArray[np.float64], relative_lu: float) -> NDArray[np.float64]:
    loud = powers[powers > _power(ABSOLUTE_GATE_LUFS)]
    if not len(loud):
        return loud
    return loud[loud > _power(_lufs(float(loud.mean())) + relative_lu)]


def k_weighting(rate_hz: int) -> NDArray[np.float64]:
    """The K filter as second-order sections: a high shelf, then a high pass (BS.1770-4, annex 1), at any
    rate.
    """
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


def _windowed(powers: NDArray[np.float64], length_s: float) -> NDArray[np.float64]:
    """Means over windows of a length, one every STEP_S."""
    count = round(length_s / STEP_S)
    if len(powers) < count:
        return powers[:0]
    return np.convolve(powers, np.full(count, 1 / count), mode="valid")


def _lufs(power: float) -> float:
    return OFFSET_DB + 10.0 * math.log10(power)


def _power(lufs: float) -> float:
    return float(10 ** ((lufs - OFFSET_DB) / 10.0))
