"""The key of a track: one of 24, or none."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vinyl.core.tonal.chroma import Chroma

TONICS = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
OTHER_NAMES = {"C#": "Db", "D#": "Eb", "Gb": "F#", "G#": "Ab", "A#": "Bb", "Cb": "B", "B#": "C", "E#": "F", "Fb": "E"}
Mode = Literal["major", "minor"]

# How well each degree fits a major and a minor key (Krumhansl and Kessler, 1982).
PROFILES = (
    (6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88),
    (6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17),
)
# What a bass line plays: the root, then fifth and fourth, then the rest of the scale.
BASS_PROFILES = (
    (2.0, 0.0, 0.6, 0.0, 0.3, 0.9, 0.0, 1.2, 0.0, 0.5, 0.2, 0.2),
    (2.0, 0.0, 0.4, 0.7, 0.0, 0.9, 0.0, 1.2, 0.6, 0.0, 0.6, 0.0),
)
BASS_SAY = 0.6
LEAST_TONAL_SHARE = 0.08

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Key:
    """A tonic (0 is C) and a mode."""

    tonic: int
    mode: Mode

    def __str__(self) -> str:
        return f"{TONICS[self.tonic]} {self.mode}"


def parse_key(text: str) -> Key:
    """The key that a name like "A minor" stands for.

    Raises:
        ValueError: for anything else.
    """
    tonic, _, mode = text.partition(" ")
    tonic = OTHER_NAMES.get(tonic, tonic)
    if tonic not in TONICS or mode not in ("major", "minor"):
        raise ValueError(f"{text!r} is not a key: write it like 'A minor' or 'Eb major'.")
    return Key(TONICS.index(tonic), "major" if mode == "major" else "minor")


def fitting_keys(key: Key) -> tuple[Key, ...]:
    """The key itself, its neighbours on the circle of fifths, and its relative."""
    relative = Key((key.tonic + 9) % 12, "minor") if key.mode == "major" else Key((key.tonic + 3) % 12, "major")
    return (key, Key((key.tonic + 7) % 12, key.mode), Key((key.tonic + 5) % 12, key.mode), relative)


@dataclass(frozen=True, slots=True)
class KeyEstimate:
    """``key`` is None where no key can be heard; ``confidence`` runs from 0 to 1."""

    key: Key | None
    confidence: float
    second: Key | None
    tuning_cents: float


def estimate_key(chroma: Chroma) -> KeyEstimate:
    """Correlate averaged chroma with key profiles (Krumhansl and Schmuckler, 1990)."""
    treble, bass = _average(chroma.treble), _average(chroma.bass)
    if not treble.any() and not bass.any():
        return KeyEstimate(None, 0.0, None, chroma.tuning_cents)
    scores = key_scores(treble, bass)
    order = np.argsort(scores)[::-1]
    best, second = (Key(int(i) % 12, "major" if i < 12 else "minor") for i in order[:2])
    margin = float(scores[order[0]] - scores[order[1]])
    confidence = float(np.clip(scores[order[0]], 0, 1) * np.clip(margin / 0.15, 0, 1) ** 0.5)
    if chroma.tonal_share < LEAST_TONAL_SHARE:
        return KeyEstimate(None, confidence, best, chroma.tuning_cents)
    return KeyEstimate(best, confidence, second, chroma.tuning_cents)


def key_scores(treble: FloatArray, bass: FloatArray) -> FloatArray:
    """Fit of each of 24 keys (majors from C, then minors) to pitch-class strengths of shape (12,)."""
    scores = [
        _correlation(treble, np.roll(np.array(PROFILES[mode]), tonic))
        + BASS_SAY * _correlation(bass, np.roll(np.array(BASS_PROFILES[mode]), tonic))
        for mode in (0, 1)
        for tonic in range(12)
    ]
    return np.array(scores) / (1 + BASS_SAY)


def _average(frames: NDArray[np.float32]) -> FloatArray:
    """Mean of the frames, each with an equal say so that loud parts do not drown the rest."""
    norm = np.sqrt((frames**2).sum(axis=1, keepdims=True))
    level = np.median(norm) + 1e-6
    mean: FloatArray = (frames / (norm + level)).mean(axis=0).astype(np.float64)
    return mean


def _correlation(a: FloatArray, b: FloatArray) -> float:
    a, b = a - a.mean(), b - b.mean()
    return float(a @ b / (np.sqrt((a @ a) * (b @ b)) + 1e-12))
