"""A tempo out of taps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm.onset_times import OnsetTimes
from vinyl.core.rhythm.tempo_map import checked_bpm

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

LEAST_TAPS = 3
# A hand strays by 10 to 30 ms: within three times the taps' own error the onsets decide, but no nearer and no
# farther than such shares of the period.
SEARCH_SPREADS = 3.0
SEARCH_SHARES = (0.002, 0.03)
SEARCH_STEPS = 241
# Onsets count from so long before the first tap to so long after the last.
AROUND_S = 12.0
# The length of their mean vector on the circle of the beat: onsets that come at any time stay under it.
CONFIRMED = 0.11
# Onsets fall on beats, on halves and on quarters of them.
SUBDIVISIONS = (1, 2, 4)

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Tapped:
    """``spread_bpm`` is the standard error of the taps' own tempo; ``by_onsets`` tells whether the sound
    narrowed it down.
    """

    bpm: float
    spread_bpm: float
    by_onsets: bool


def tapped_tempo(taps_s: Sequence[float], onset_times: OnsetTimes | None = None) -> Tapped:
    """The tempo of taps by a straight line through them, missed ones left out; onsets near it, where
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
    exact = _by_onsets(onset_times, taps, period, error) if onset_times is not None else None
    return Tapped(60.0 / exact, spread, True) if exact is not None else Tapped(bpm, spread, False)


def _line(numbers: FloatArray, taps: FloatArray) -> tuple[float, float]:
    """Slope of least squares, and its standard error."""
    centred = numbers - numbers.mean()
    power = float((centred**2).sum())
    slope = float((centred * taps).sum()) / power
    rest = taps - taps.mean() - slope * centred
    variance = float((rest**2).sum()) / max(len(taps) - 2, 1)
    return slope, float(np.sqrt(variance / power))


def _by_onsets(onset_times: OnsetTimes, taps: FloatArray, period: float, error: float) -> float | None:
    """The period near the tapped one at which the onsets around fall into step best, if they do."""
    near = (onset_times.times_s > taps[0] - AROUND_S) & (onset_times.times_s < taps[-1] + AROUND_S)
    times, strength = onset_times.times_s[near] - taps.mean(), onset_times.strength[near] ** 2
    if len(times) < LEAST_TAPS:
        return None
    least, most = (share * period for share in SEARCH_SHARES)
    reach = min(max(SEARCH_SPREADS * error, least), most)
    periods = period + np.linspace(-reach, reach, SEARCH_STEPS)
    turns = times[None, :] / periods[:, None]
    together = sum(np.abs(np.exp(2j * np.pi * parts * turns) @ strength) for parts in SUBDIVISIONS) / (
        len(SUBDIVISIONS) * strength.sum()
    )
    best = int(np.argmax(together))
    return float(periods[best]) if together[best] > CONFIRMED and 0 < best < SEARCH_STEPS - 1 else None
