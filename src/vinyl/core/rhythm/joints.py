"""Where the steady pieces of a track meet: the beat on which one tempo gives way to the next."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from vinyl.core.rhythm.piece import Piece
from vinyl.core.rhythm.steady import PROFILE_BINS

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# A change is looked for so far beyond where the two pieces hold, and pieces are listened to so far beyond it.
SEARCH_S = 8.0
HEARD_S = 40.0
TIME_STEP_S = 0.05
# Costs of a meeting: the gap between the two beats in units of GAP_S, squared, up to ODD_COST; a beat of
# distance from the change that was heard; half a beat's move of a piece, by how clear its beat is; and any
# move of one without drums.
GAP_S = 0.002
ODD_COST = 12.0
BEAT_COST = 0.6
HALF_COST = 16.0
MOVE_COST = 0.5
# What it costs that a tempo, between two changes, has not lasted whole bars of so many beats: tempi of 5 to 6
# meet every few beats, and music changes at its bars.
BAR_BEATS, ODD_BAR_COST = 4, 3.5
# Beats around the change among which the meeting is looked for.
NEAR_BEATS = 10
# Beats closer than this share of a beat are one; closer than EXACT_S they are one to the ear as well.
SAME_BEAT = 0.3
EXACT_S = 0.0015

FloatArray = NDArray[np.float64]


def knots(bands: NDArray[np.float32], rate_hz: float, pieces: list[Piece]) -> tuple[FloatArray, FloatArray]:
    """Beat numbers and times in seconds between which the tempo is one, first and last beat of the pieces
    included.

    What is a beat and what an off-beat is settled by where the pieces meet.

    Args:
        bands: fine onset envelopes (2, n) at ``rate_hz``.
    """
    changes_s = [_change(bands, rate_hz, a, b) for a, b in pairwise(pieces)]
    options = [_chain([moved, *pieces[1:]], changes_s, cost) for moved, cost in _moves(pieces[0])]
    _, numbers, times = min(options, key=lambda option: option[0])
    return np.array(numbers), np.array(times)


def _change(bands: NDArray[np.float32], rate_hz: float, a: Piece, b: Piece) -> float:
    """The time in seconds before which beats are like those of the first piece, and after which like those of
    the second.
    """
    low_s, high_s = min(a.end_s, b.start_s) - SEARCH_S, max(a.end_s, b.start_s) + SEARCH_S
    times_s = np.arange(low_s, high_s, TIME_STEP_S)
    balance = np.interp(times_s, *_likeness(bands, rate_hz, a)) - np.interp(
        times_s, *_likeness(bands, rate_hz, b)
    )
    return float(times_s[np.argmax(np.cumsum(balance))])


def _likeness(bands: NDArray[np.float32], rate_hz: float, piece: Piece) -> tuple[FloatArray, FloatArray]:
    """Middle of each beat in seconds, and how like the piece's mean beat its onsets are (1 is usual)."""
    bins = round(piece.period_s * rate_hz)
    start_s, end_s = (
        max(piece.start_s - HEARD_S, 0.0),
        min(piece.end_s + HEARD_S, (bands.shape[1] - 1) / rate_hz),
    )
    beats = _beats(piece, start_s, end_s - piece.period_s)
    starts = np.rint(beats * rate_hz).astype(np.int64)
    around = np.minimum(starts[:, None] + np.arange(bins)[None, :], bands.shape[1] - 1)
    profiles = gaussian_filter1d(bands[:, around], PROFILE_BINS, axis=2)
    profiles -= profiles.mean(axis=2, keepdims=True)
    profiles = np.hstack(list(profiles))
    own = (beats > piece.start_s) & (beats < piece.end_s)
    template = profiles[own].mean(axis=0)
    alike = profiles @ template / (np.sqrt((profiles**2).sum(axis=1) * (template**2).sum()) + 1e-9)
    return beats + piece.period_s / 2, alike / max(float(alike[own].mean()), 1e-9)


def _moves(piece: Piece) -> list[tuple[Piece, float]]:
    """The piece as it is, moved by half a beat, or by any quarter if it has no drums, and what that costs:
    the more, the clearer its beat is heard.
    """
    if piece.has_drums:
        return [(piece, 0.0), (_shifted(piece, 0.5), HALF_COST * piece.beat_share)]
    return [(piece, 0.0), *((_shifted(piece, quarters / 4), MOVE_COST) for quarters in (1, 2, 3))]


def _chain(
    pieces: list[Piece], changes_s: list[float], total: float
) -> tuple[float, list[float], list[float]]:
    before = pieces[0]
    numbers, times = [0.0], [float(_beats(before, before.start_s, before.end_s)[0])]
    for piece, change_s in zip(pieces[1:], changes_s, strict=True):
        begun_s = times[-1] if len(times) > 1 else None
        found = (_meeting(before, moved, change_s, begun_s, cost) for moved, cost in _moves(piece))
        cost, ours, theirs, piece = min(found, key=lambda meeting: meeting[0])
        total += cost
        numbers.append(numbers[-1] + max(1, round((ours - times[-1]) / before.period_s)))
        times.append(ours)
        if abs(theirs - ours) > EXACT_S:
            numbers.append(numbers[-1] + 1)
            times.append(theirs if theirs - ours > SAME_BEAT * piece.period_s else theirs + piece.period_s)
        before = piece
    more = max(4, round((before.end_s - times[-1]) / before.period_s))
    return total, [*numbers, numbers[-1] + more], [*times, times[-1] + more * before.period_s]


def _shifted(piece: Piece, beats: float) -> Piece:
    return replace(piece, phase_s=piece.phase_s + beats * piece.period_s)


def _meeting(
    a: Piece, b: Piece, change_s: float, begun_s: float | None, extra_cost: float
) -> tuple[float, float, float, Piece]:
    """Cost, last beat of the first piece, first beat of the second (mostly the same), and the second piece.

    The tempo changes on a beat of both; that weighs more than being close to the time heard for the change,
    or whole bars after the first piece has begun, where that is known.
    """
    ours = _beats(a, change_s - NEAR_BEATS * a.period_s, change_s + NEAR_BEATS * a.period_s)
    theirs = b.phase_s + np.ceil((ours - SAME_BEAT * b.period_s - b.phase_s) / b.period_s) * b.period_s
    gap_s = np.abs(theirs - ours)
    odd = gap_s > SAME_BEAT * b.period_s
    cost = np.minimum((gap_s / GAP_S) ** 2, ODD_COST) + odd + BEAT_COST * np.abs(ours - change_s) / a.period_s
    if begun_s is not None:
        cost += ODD_BAR_COST * (np.rint((ours - begun_s) / a.period_s) % BAR_BEATS != 0)
    best = int(np.argmin(cost))
    return float(cost[best]) + extra_cost, float(ours[best]), float(theirs[best]), b


def _beats(piece: Piece, low: float, high: float) -> FloatArray:
    first, last = (
        np.ceil((low - piece.phase_s) / piece.period_s),
        np.floor((high - piece.phase_s) / piece.period_s),
    )
    beats: FloatArray = piece.phase_s + piece.period_s * np.arange(first, last + 1)
    return beats
