"""Which metrical level is the beat: the tempo that was found, half of it, or its double."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from vinyl.core.rhythm.tempo import TempoEstimate, within
from vinyl.core.tonal.chroma import Chroma

FACTORS = (0.5, 1.0, 2.0)
KINDS = ("always", "tempo", "quarter beats", "half beats", "harmony after 2 beats", "harmony after 4 beats")
# Half and double against the tempo that was found. Fitted by vinyl.bench.level_weights, a multinomial logit
# on the development set and on made-up pieces.
WEIGHTS = ((-3.0, 2.1, -9.5, -10.7, -0.1, 7.5), (-6.1, -8.5, 9.1, 2.0, -0.4, -4.5))
USUAL_BPM = 120.0

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Level:
    """What the tempo that was found is multiplied by, the chance (0 to 1) that this is right, and what else
    it is most likely.
    """

    factor: float
    chance: float
    other: float


def choose_level(
    tempo: TempoEstimate, chroma: Chroma, window_bpm: tuple[float, float] | None = None
) -> Level:
    """The likeliest level.

    A beat is divided: where nothing repeats after half or a quarter of it, it is counted too fast, and where
    even its quarters are as alike as beats are, too slow. Harmony changes with beats and bars.

    Args:
        window_bpm: the range the user expects; levels outside are none, if one lies within.
    """
    chances = level_chances(level_evidence(tempo, chroma), np.array(WEIGHTS))
    if window_bpm is not None:
        inside = within(tempo.bpm * np.array(FACTORS), window_bpm)
        if inside.any():
            chances = np.where(inside, chances, 0.0)
            chances /= chances.sum()
    order = np.argsort(-chances, kind="stable")
    return Level(FACTORS[order[0]], float(chances[order[0]]), FACTORS[order[1]])


def level_evidence(tempo: TempoEstimate, chroma: Chroma) -> FloatArray:
    """Evidence (KINDS,) of how a tempo lies to the beat."""
    harmony = harmonic_likeness(chroma, 60.0 / tempo.bpm, (2, 4))
    return np.array([1.0, np.log2(tempo.bpm / USUAL_BPM), *tempo.divisions, *harmony])


def level_chances(evidence: FloatArray, weights: FloatArray) -> FloatArray:
    """The chance (..., 3) of each of FACTORS, given evidence (..., KINDS): a multinomial logit."""
    half, double = (evidence @ row for row in weights)
    score = np.stack([half, np.zeros_like(half), double], axis=-1)
    chances = np.exp(score - score.max(axis=-1, keepdims=True))
    share: FloatArray = chances / chances.sum(axis=-1, keepdims=True)
    return share


def harmonic_likeness(chroma: Chroma, period_s: float, beats: tuple[int, ...]) -> list[float]:
    """How like each other the pitch classes (-1 to 1) are after so many beats; 0 in too short a track."""
    pitch = np.hstack([chroma.bass, chroma.treble]).astype(np.float64)
    beat = uniform_filter1d(pitch, max(round(period_s * chroma.rate_hz), 1), axis=0)
    beat -= beat.mean(axis=0)
    power = float((beat**2).mean()) + 1e-12
    lags = [round(count * period_s * chroma.rate_hz) for count in beats]
    return [float((beat[lag:] * beat[:-lag]).mean()) / power if 0 < lag < len(beat) else 0.0 for lag in lags]
