"""A tempo out of taps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm.tempo_map import checked_bpm
from vinyl.core.rhythm.transients import Transients

LEAST_TAPS = 3
# A hand strays by 10 to 30 ms: within three times the taps' own spread the attacks decide.
SEARCH_SPREADS = 3.0
SEARCH_STEPS = 241
AROUND_S = 12.0
CONFIRMED = 0.11
# Attacks fall on beats, on halves and on quarters of them.
SUBDIVISIONS = (1, 2, 4)

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Tapped:
    """``spread_bpm`` is the standard error of the taps' own tempo; ``by_attacks`` tells whether the sound
    narrowed it down.
    """

    bpm: float
    spread_bpm: float
    by_attacks: bool


def tapped_tempo(taps_s: Sequence[float], transients: Transients | None = None) -> Tapped:
    """The tempo of taps by a straight line through them, missed ones left out; attacks near it, where
    they agree, make it exact.

    Raises:
        TempoMapError: with fewer than three taps, or a tempo no grid may have.
    """
    if len(taps_s) < LEAST_TAPS:
        raise TempoMapError(f"Tap at least {LEAST_TAPS} times in time with the music.")
    taps = np.sort(np.asarray(taps_s, dtype=np.float64))
    gap = float(np.median(np.diff(taps)))
    if gap <= 0:
        raise TempoMapError("All these taps are at one place: tap in time with the music.")
    numbers = np.concatenate([[0.0], np.cumsum(np.maximum(np.rint(np.diff(taps) / gap), 0.0))])
    period, error = _line(numbers, taps)
    bpm = checked_bpm(60.0 / period)
    spread = 60.0 / period**2 * error
    exact = _by_attacks(transients, taps, period, error) if transients is not None else None
    return Tapped(60.0 / exact, spread, True) if exact is not None else Tapped(bpm, spread, False)


def _line(numbers: FloatArray, taps: FloatArray) -> tuple[float, float]:
    """Slope of least squares, and its standard error."""
    centred = numbers - numbers.mean()
    power = float((centred**2).sum())
    slope = float((centred * taps).sum()) / power
    rest = taps - taps.mean() - slope * centred
    variance = float((rest**2).sum()) / max(len(taps) - 2, 1)
    return slope, float(np.sqrt(variance / power))


def _by_attacks(transients: Transients, taps: FloatArray, period: float, error: float) -> float | None:
    """The period near the tapped one at which the attacks around fall into step best, if they do."""
    near = (transients.times_s > taps[0] - AROUND_S) & (transients.times_s < taps[-1] + AROUND_S)
    times, strength = transients.times_s[near] - taps.mean(), transients.strength[near] ** 2
    if len(times) < LEAST_TAPS:
        return None
    reach = float(np.clip(SEARCH_SPREADS * error, 0.002 * period, 0.03 * period))
    periods = period + np.linspace(-reach, reach, SEARCH_STEPS)
    turns = times[None, :] / periods[:, None]
    together = sum(np.abs(np.exp(2j * np.pi * parts * turns) @ strength) for parts in SUBDIVISIONS) / (
        len(SUBDIVISIONS) * strength.sum()
    )
    best = int(np.argmax(together))
    return float(periods[best]) if together[best] > CONFIRMED and 0 < best < SEARCH_STEPS - 1 else None
