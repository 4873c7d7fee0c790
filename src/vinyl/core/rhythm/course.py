"""The course of a track's tempo: steady, in steps, or moving, told apart by what holds its onsets."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rhythm.bridges import carry_on
from vinyl.core.rhythm.elastic import fit_moving, onset_lag
from vinyl.core.rhythm.joints import knots
from vinyl.core.rhythm.neighbours import join_same
from vinyl.core.rhythm.one_tempo import is_one_tempo
from vinyl.core.rhythm.onset import OnsetEnvelopes
from vinyl.core.rhythm.piece import Piece
from vinyl.core.rhythm.pieces import MOST_SPREAD_S, find_pieces
from vinyl.core.rhythm.steady import SteadyFit, fine_bands, fine_sum, fit_steady
from vinyl.core.rhythm.tempo import TempoEstimate, accent_envelope
from vinyl.core.rhythm.tempo_map import Kind
from vinyl.core.rhythm.tracking import follow_beats, tempo_path

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# One tempo is enough if it holds this share of the onset strength.
LEAST_HELD = 0.8
# A curve must hold this much more of it than one tempo does.
ELASTIC_GAIN = 0.15
# A track takes steps if its pieces explain this share of the onset strength, and are so alike in themselves.
LEAST_EXPLAINED, MEAN_ALIKE = 0.8, 0.7
# Beats that a curve can be told from.
LEAST_BEATS = 16

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Course:
    """Beat ``numbers`` and ``times_s`` between which the tempo is one; the outer two tempi go on beyond.

    ``held`` (0 to 1) is the share of onsets that lie on it, ``fit`` the steady fit it was compared with,
    ``heard`` the share of beats that are like the usual one.
    """

    kind: Kind
    numbers: FloatArray
    times_s: FloatArray
    held: float
    fit: SteadyFit
    heard: float = 1.0

    def time_at(self, beats: FloatArray) -> FloatArray:
        """Seconds (n,) of beat numbers (n,)."""
        return _extend(beats, self.numbers, self.times_s)

    def beat_at(self, times_s: FloatArray) -> FloatArray:
        """Beat numbers (n,) of times (n,) in seconds."""
        return _extend(times_s, self.times_s, self.numbers)


def find_course(
    onsets: OnsetEnvelopes,
    tempo: TempoEstimate,
    duration_s: float,
    window_bpm: tuple[float, float] | None = None,
    wanted: Kind | None = None,
) -> Course:
    """The course of the tempo, or the best one of the kind wanted; steady where there is none of that kind.

    One tempo if it holds the onsets, up to both ends and in windows between; else steps, if few exact pieces
    hold them; else a curve, if it holds more.

    On made-up pieces and the development set one tempo holds at least 0.83 of the onsets of steady music and
    at most 0.61 of other music; the pieces of stepped music stray by at most 0.5 ms, those of drummers by 0.8
    to 4 ms.
    """
    fit = fit_steady(onsets, 60.0 / tempo.bpm)
    steady = Course(
        "steady", np.array([0.0, 1.0]), fit.phase_s + np.array([0.0, fit.period_s]), fit.held, fit
    )
    if wanted == "steady" or (wanted is None and _holds(onsets, fit)):
        return steady
    if wanted != "elastic":
        pieces, explained = find_pieces(onsets, duration_s, tempo.bpm, window_bpm, wanted is not None)
        joined = join_same(pieces)
        if wanted or (explained >= LEAST_EXPLAINED and _exact(pieces)):
            if len(joined) < 2:
                return steady
            return Course("stepped", *knots(fine_bands(onsets), onsets.fine_rate_hz, joined), explained, fit)
    return _moving(onsets, tempo, fit, fit.held + ELASTIC_GAIN if wanted is None else 0.0) or steady


def _holds(onsets: OnsetEnvelopes, fit: SteadyFit) -> bool:
    return fit.held >= LEAST_HELD and fit.ends_hold and is_one_tempo(onsets, fit.bpm)


def _exact(pieces: list[Piece]) -> bool:
    lengths = [piece.end_s - piece.start_s for piece in pieces]
    spread_s, alike = (
        float(np.average([getattr(piece, name) for piece in pieces], weights=lengths))
        for name in ("spread_s", "alike")
    )
    return spread_s <= MOST_SPREAD_S and alike >= MEAN_ALIKE


def _moving(onsets: OnsetEnvelopes, tempo: TempoEstimate, fit: SteadyFit, least_held: float) -> Course | None:
    """A curve, if there are beats for one and it holds enough."""
    envelope, fine, rate_hz = accent_envelope(onsets), fine_sum(onsets), onsets.fine_rate_hz
    path = tempo_path(envelope, onsets.rate_hz, tempo.bpm)
    followed = follow_beats(envelope, onsets.rate_hz, *path)
    if len(followed) <= LEAST_BEATS:
        return None
    moving = fit_moving(fine, rate_hz, followed)
    if moving.held < least_held:
        return None
    carried = carry_on(fine_bands(onsets), rate_hz, moving.beats_s, path)
    beats = carried.beats_s + onset_lag(fine, rate_hz, carried.beats_s)
    numbers = np.arange(len(beats), dtype=np.float64)
    return Course("elastic", numbers, beats, moving.held, fit, float(carried.heard.mean()))


def _extend(x: FloatArray, at: FloatArray, to: FloatArray) -> FloatArray:
    segment = np.clip(np.searchsorted(at, x, side="right") - 1, 0, len(at) - 2)
    slope = np.diff(to) / np.diff(at)
    result: FloatArray = to[segment] + (x - at[segment]) * slope[segment]
    return result
