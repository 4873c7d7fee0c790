"""A short vector that says what a track sounds like: timbre, rhythm and harmony."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from vinyl.core.framing import means_between
from vinyl.core.rhythm.onset import OnsetEnvelopes
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.tonal.chroma import Chroma

TIMBRE = slice(0, 60)
RHYTHM = slice(60, 92)
HARMONY = slice(92, 116)
SIZE = 116
STEPS_PER_BAR = 16
# The sound is that of the louder half, in blocks of so many seconds.
BLOCK_S = 2.0
LOUD_SHARE = 0.5
# What the movement of the bands has to say beside their mean (1).
MOVEMENT_SAY = 2.0

FloatArray = NDArray[np.float64]
Descriptor = NDArray[np.float32]


def describe(
    onsets: OnsetEnvelopes, chroma: Chroma, tempo_map: TempoMap | None, duration_s: float
) -> Descriptor:
    """A vector (SIZE,) whose three parts each have length 1: mean and movement of the bands over the louder
    half, onsets by place in the bar in two bands, and pitch classes of bass and treble."""
    result = np.zeros(SIZE, np.float32)
    result[TIMBRE] = _unit(_timbre(onsets))
    result[RHYTHM] = _unit(_rhythm(onsets, tempo_map, duration_s))
    result[HARMONY] = _unit(_harmony(chroma))
    return result


def _timbre(onsets: OnsetEnvelopes) -> FloatArray:
    block = max(1, min(round(BLOCK_S * onsets.rate_hz), len(onsets.bands)))
    whole = len(onsets.bands) // block * block
    blocks = onsets.bands[:whole].reshape(-1, block, onsets.bands.shape[1])
    mean = blocks.mean(axis=1, dtype=np.float64)
    movement = np.sqrt(
        np.maximum(np.einsum("ijk,ijk->ik", blocks, blocks, dtype=np.float64) / block - mean**2, 0.0)
    )
    level = mean.mean(axis=1)
    loud = level >= np.quantile(level, 1 - LOUD_SHARE)
    tilt = mean[loud].mean(axis=0)
    return np.concatenate(
        [tilt - tilt.mean(), MOVEMENT_SAY * (movement[loud].mean(axis=0) - movement[loud].mean())]
    )


def _rhythm(onsets: OnsetEnvelopes, tempo_map: TempoMap | None, duration_s: float) -> FloatArray:
    if tempo_map is None:
        return np.zeros(2 * STEPS_PER_BAR)
    first, last = (float(b) / tempo_map.beats_per_bar for b in tempo_map.beat_at([0.0, duration_s]))
    bars = np.arange(np.ceil(first), np.floor(last))
    if not len(bars):
        return np.zeros(2 * STEPS_PER_BAR)
    steps = (
        bars[0] + np.arange(len(bars) * STEPS_PER_BAR + 1) / STEPS_PER_BAR - 0.25 / STEPS_PER_BAR
    ) * tempo_map.beats_per_bar
    flux = np.stack([onsets.low, onsets.mid + onsets.high], axis=1)
    pattern = (
        means_between(flux, onsets.rate_hz, tempo_map.time_at(steps))
        .reshape(len(bars), STEPS_PER_BAR, 2)
        .mean(axis=0)
    )
    centred: FloatArray = (pattern - pattern.mean(axis=0)) / (pattern.std(axis=0) + 1e-6)
    return centred.T.ravel()


def _harmony(chroma: Chroma) -> FloatArray:
    parts = [part.mean(axis=0, dtype=np.float64) for part in (chroma.bass, chroma.treble)]
    return np.concatenate([(part - part.mean()) / (part.std() + 1e-9) for part in parts])


def _unit(values: FloatArray) -> FloatArray:
    length = float(np.sqrt((values**2).sum()))
    unit: FloatArray = values / length if length > 1e-9 else values
    return unit
