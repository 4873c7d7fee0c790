"""Energy from 0 to 100 on a scale of its own: how hard the louder parts of a track drive.

Only what is in the music counts. How loud a file is was decided by whoever mastered it, and how much of the
top is left by whoever encoded it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from vinyl.core.rhythm.onset import HEARD_HZ, HIGH_HZ, LOW_BANDS, LOW_HZ, OnsetEnvelopes

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Energy is that of the louder half of the track, in blocks of so many seconds.
BLOCK_S = 2.0
LOUD_SHARE = 0.5
# Blocks that are worked on at once, so that a long mix costs little memory.
AT_ONCE = 64
# An onset is a peak of the flux (in nepers of compressed magnitude, three bands together) above this, alone
# around it.
ONSET_RISE = 1.0
ONSET_APART_S = 0.06
# What counts as nothing and as everything of each part (a second; mean flux; dB of bass over all; octaves
# over 1 Hz of the centroid), and what it has to say: the ends are what soft and what hard music of many kinds
# has.
ONSETS_PER_S = (0.0, 9.0)
DRIVE = (0.1, 0.5)
BASS_DB = (-14.0, 5.0)
CENTROID_OCTAVES = (8.4, 10.4)
# A part is told if it lies so far from the middle, and no more of them than this.
TOLD = 0.15
MOST_WORDS = 3
SAY = {"onsets": 0.3, "drive": 0.3, "bass": 0.2, "brightness": 0.2}
WORDS = {
    "onsets": ("few attacks", "many attacks"),
    "drive": ("soft attacks", "hard attacks"),
    "bass": ("thin", "deep bass"),
    "brightness": ("dark", "bright"),
}

FloatArray = NDArray[np.float64]
Frames = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Energy:
    """``value`` from 0 to 100, and why in a few words."""

    value: int
    reason: str


def estimate_energy(onsets: OnsetEnvelopes) -> Energy:
    """Energy from onsets, bass and brightness over the louder half of the track; silence is 0. Gain changes
    nothing.
    """
    if not onsets.bands.any():
        return Energy(0, "silent")
    centres_hz = onsets.centres_hz[onsets.centres_hz < HEARD_HZ]
    bands = onsets.bands[:, : len(centres_hz)]
    block = min(round(BLOCK_S * onsets.rate_hz), len(bands))
    blocks = _block_means(bands, block)
    count, drive = _onsets_per_s(_flux(bands, centres_hz, block), onsets.rate_hz, block, len(blocks))
    loud = blocks.mean(axis=1) >= np.quantile(blocks.mean(axis=1), 1 - LOUD_SHARE)
    mean = blocks[loud].mean(axis=0)
    parts = {
        "onsets": _between(float(count[loud].mean()), ONSETS_PER_S),
        "drive": _between(float(drive[loud].mean()), DRIVE),
        "bass": _between(20 * np.log10((mean[:LOW_BANDS].mean() + 1e-9) / (mean.mean() + 1e-9)), BASS_DB),
        "brightness": _between(_centroid_octaves(mean, centres_hz), CENTROID_OCTAVES),
    }
    return Energy(round(100 * sum(SAY[name] * share for name, share in parts.items())), _reason(parts))


def _flux(bands: NDArray[np.float16], centres_hz: Frames, block: int) -> Frames:
    """Half-wave rectified flux of the bands that all copies keep, the means of three groups together."""
    low, high = centres_hz < LOW_HZ, centres_hz > HIGH_HZ
    flux = np.zeros(len(bands), np.float32)
    for at in range(0, len(bands) - 2, AT_ONCE * block):
        part = bands[at : at + AT_ONCE * block + 2].astype(np.float32)
        rise = np.maximum(part[2:] - part[:-2], 0.0)
        for group in (low, ~low & ~high, high):
            flux[at + 1 : at + 1 + len(rise)] += rise[:, group].mean(axis=1)
    return flux


def _block_means(bands: NDArray[np.float16], block: int) -> FloatArray:
    """Mean magnitudes (blocks, bands)."""
    whole = len(bands) // block * block
    means = np.zeros((whole // block, bands.shape[1]))
    for at in range(0, len(means), AT_ONCE):
        part = np.expm1(bands[at * block : min((at + AT_ONCE) * block, whole)], dtype=np.float32)
        means[at : at + AT_ONCE] = part.reshape(-1, block, part.shape[1]).mean(axis=1, dtype=np.float64)
    return means


def _onsets_per_s(flux: Frames, rate_hz: float, block: int, blocks: int) -> tuple[FloatArray, FloatArray]:
    """Onsets a second and their mean strength a second, in each block."""
    highest = maximum_filter1d(flux, 2 * round(ONSET_APART_S * rate_hz / 2) + 1)
    begins = ((flux == highest) & (flux > ONSET_RISE))[: blocks * block].reshape(blocks, block)
    strength = flux[: blocks * block].reshape(blocks, block)
    return begins.sum(axis=1) * rate_hz / block, strength.mean(axis=1, dtype=np.float64)


def _centroid_octaves(level: FloatArray, centres_hz: NDArray[np.float32]) -> float:
    """Spectral centroid as the binary logarithm of its frequency in Hz."""
    return float((level * np.log2(centres_hz)).sum() / max(level.sum(), 1e-12))


def _between(value: float, ends: tuple[float, float]) -> float:
    return float(np.clip((value - ends[0]) / (ends[1] - ends[0]), 0.0, 1.0))


def _reason(parts: dict[str, float]) -> str:
    """The parts that stand out most, in words."""
    order = sorted(parts, key=lambda name: -abs(parts[name] - 0.5) * SAY[name])
    words = [WORDS[name][parts[name] > 0.5] for name in order if abs(parts[name] - 0.5) > TOLD]
    return ", ".join(words[:MOST_WORDS]) or "middling in everything"
