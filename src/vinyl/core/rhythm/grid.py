"""From onsets to a beatgrid with its doubt."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rhythm.downbeat import SLOTS_PER_BEAT, BarFit, find_bars
from vinyl.core.rhythm.onset import Onsets
from vinyl.core.rhythm.steady import SteadyFit, fit_steady
from vinyl.core.rhythm.tempo import TempoEstimate, estimate_tempo
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.tonal.chroma import Chroma

STEADY_SPREAD_S = 0.004
LOOSE_SPREAD_S = 0.015
EARLIEST_S = 0.03
LEAST_HELD = 0.75
NO_REPETITION = 0.05
WEAK_REPETITION = 0.18
LEAST_CLARITY = 0.08
LEAST_BAR_CLARITY = 0.3


@dataclass(frozen=True, slots=True)
class GridEstimate:
    """A tempo map, how far to doubt it (0 sure, 1 a guess), and why, in words."""

    tempo_map: TempoMap
    doubt: float
    reasons: tuple[str, ...]


def estimate_grid(onsets: Onsets, chroma: Chroma, duration_s: float, window_bpm: tuple[float, float] | None = None) -> GridEstimate | None:
    """The steady grid that fits a track best, or None where nothing repeats."""
    if duration_s < 4.0 or (not onsets.low.any() and not onsets.mid.any() and not onsets.high.any()):
        return None
    tempo = estimate_tempo(onsets, window_bpm)
    if tempo.repetition < NO_REPETITION:
        return None
    fit = fit_steady(onsets, 60.0 / tempo.bpm)
    slots = np.arange(fit.phase_s, duration_s, fit.period_s / SLOTS_PER_BEAT)
    if len(slots) < 16:
        return None
    bars = find_bars(onsets, chroma, slots, fit.beat_share)
    tempo_map = TempoMap.steady(fit.bpm, _first_downbeat(slots, bars), bars.beats_per_bar)
    return GridEstimate(tempo_map, *_doubt(tempo, fit, bars))


def _first_downbeat(slots: NDArray[np.float64], bars: BarFit) -> float:
    """The first bar start, one bar earlier if that lies at the very start of the file."""
    first = float(slots[bars.first_slot])
    bar_s = float(slots[1] - slots[0]) * SLOTS_PER_BEAT * bars.beats_per_bar
    return first - bar_s if first - bar_s > -EARLIEST_S else first


def _doubt(tempo: TempoEstimate, fit: SteadyFit, bars: BarFit) -> tuple[float, tuple[str, ...]]:
    reasons = []
    drift = float(np.clip((fit.spread_s - STEADY_SPREAD_S) / (LOOSE_SPREAD_S - STEADY_SPREAD_S), 0, 1))
    if drift > 0.2:
        reasons.append(f"the tempo does not hold: attacks stray by {fit.spread_s * 1000:.0f} ms")
    if fit.held < LEAST_HELD:
        drift = max(drift, 1 - fit.held)
        reasons.append(f"the grid fits only {fit.held:.0%} of the attacks: the tempo may change on the way")
    octave = float(np.clip(1 - tempo.clarity / (3 * LEAST_CLARITY), 0, 1))
    if tempo.clarity < LEAST_CLARITY:
        reasons.append(f"{tempo.second_bpm:.0f} bpm fits almost as well")
    bar = float(np.clip(1 - bars.clarity / (2 * LEAST_BAR_CLARITY), 0, 1))
    if bars.clarity < LEAST_BAR_CLARITY:
        reasons.append("the bar start is not clear")
    weak = float(np.clip((WEAK_REPETITION - tempo.repetition) / (WEAK_REPETITION - NO_REPETITION), 0, 1))
    if weak > 0:
        reasons.append("the beat is hardly there")
    doubt = 1 - (1 - 0.9 * drift) * (1 - 0.6 * octave) * (1 - 0.5 * bar) * (1 - 0.8 * weak)
    return round(float(doubt), 3), tuple(reasons)
