"""The steady pieces of a track: found in windows all over it, followed, and shared out over its time."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rhythm.following import SHORTEST_S, follow, like_over_time, strength_between
from vinyl.core.rhythm.neighbours import SAME_TEMPO, SURE_ALIKE, in_octaves
from vinyl.core.rhythm.onset import OnsetEnvelopes
from vinyl.core.rhythm.paths import best_owner
from vinyl.core.rhythm.piece import Piece
from vinyl.core.rhythm.steady import beat_phase, fine_sum, fit_steady
from vinyl.core.rhythm.tempo import estimate_tempo

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Each window proposes a grid, if that holds this share of the window's onset strength.
WINDOW_S = 30.0
STEP_S = 10.0
EDGE_S = 15.0
LEAST_HELD = 0.7
# Frames of the envelope (5.8 ms each) below which a window says nothing.
LEAST_FRAMES = 1000
# Windows are listened to in so many passes over the track. If in the first of them so many grids hold and
# less than this share of them is exact, the tempo moves.
PASSES = 3
LEAST_TOLD, LEAST_EXACT = 4, 0.25
# So many grids compete for each second, or three a minute. A change between them costs as much
# likeness; below the least no grid holds.
MOST_CANDIDATES, SECONDS_A_CANDIDATE = 24, 20.0
CHANGE_COST, NO_LIKENESS = 3.0, 0.2
# Grids with beats so near (in beats) and of the same tempo are one.
SAME_BEAT = 0.02
# Made-up stepped pieces stray by at most 0.5 ms, drummers by 0.8 to 4 ms.
MOST_SPREAD_S = 0.001

FloatArray = NDArray[np.float64]


def find_pieces(
    onsets: OnsetEnvelopes,
    duration_s: float,
    bpm: float,
    window_bpm: tuple[float, float] | None = None,
    in_any_case: bool = False,
) -> tuple[list[Piece], float]:
    """Steady pieces in order of time, and the share (0 to 1) of all onset strength that they explain.

    Every window of WINDOW_S proposes a grid; each is followed as far as the onsets stay on it; those that
    explain most are taken first, and each moment goes to the one that it is most like. Where hardly any is
    exact, there are no pieces, unless they are wanted in any case.
    """
    fine = fine_sum(onsets)
    level = np.cumsum(fine)
    runs: list[Piece] = []
    for windows in _passes(duration_s):
        for start_s, end_s in windows:
            if not _is_covered(start_s, end_s, runs):
                proposal = _proposal(onsets, start_s, end_s, window_bpm)
                run = follow(fine, onsets.fine_rate_hz, proposal, level) if proposal else None
                runs += [run] if run else []
        if not in_any_case and _moves(runs):
            return [], 0.0
    runs.sort(key=lambda run: -run.strength * run.alike)
    candidates: list[Piece] = []
    for run in runs:
        if len(candidates) < max(MOST_CANDIDATES, duration_s / SECONDS_A_CANDIDATE) and not any(
            _is_like(run, each) for each in candidates
        ):
            candidates.append(run)
    shared = _shared_out(fine, onsets.fine_rate_hz, candidates, duration_s, level)
    found = [_settled(onsets, piece) for piece in in_octaves(bpm, shared)]
    return found, sum(piece.strength for piece in found) / max(float(level[-1]), 1e-9)


def _is_covered(start_s: float, end_s: float, runs: list[Piece]) -> bool:
    """Whether at each moment some run is sure."""
    reached_s = start_s
    for run in sorted(runs, key=lambda run: run.start_s):
        if run.start_s <= reached_s and run.alike > SURE_ALIKE:
            reached_s = max(reached_s, run.end_s)
    return reached_s >= end_s


def _moves(runs: list[Piece]) -> bool:
    """Whether runs from all over the track stray as drummers do."""
    exact = sum(run.spread_s <= MOST_SPREAD_S for run in runs)
    return len(runs) >= LEAST_TOLD and exact < LEAST_EXACT * len(runs)


def _passes(duration_s: float) -> list[list[tuple[float, float]]]:
    """All windows, in passes over the whole track."""
    windows = _windows(duration_s)
    return [windows[first::PASSES] for first in range(PASSES)]


def _windows(duration_s: float) -> list[tuple[float, float]]:
    """Start and end in seconds: all of one length, and shorter ones at both ends of the track."""
    starts = [float(start_s) for start_s in np.arange(0.0, max(duration_s - WINDOW_S / 2, 1.0), STEP_S)]
    edges = [(0.0, EDGE_S), (duration_s - EDGE_S, duration_s)] if duration_s > WINDOW_S else []
    return edges + [(start_s, min(start_s + WINDOW_S, duration_s)) for start_s in starts]


def _proposal(
    onsets: OnsetEnvelopes, start_s: float, end_s: float, window_bpm: tuple[float, float] | None
) -> Piece | None:
    """The grid of one window, if it holds there."""
    part = onsets.between(start_s, end_s)
    if len(part.low) < LEAST_FRAMES:
        return None
    fit = fit_steady(part, 60.0 / estimate_tempo(part, window_bpm).bpm)
    return Piece(start_s, end_s, fit.period_s, start_s + fit.phase_s) if fit.held >= LEAST_HELD else None


def _is_like(run: Piece, other: Piece) -> bool:
    """Whether two runs overlap and have the same beats there."""
    first_s, last_s = max(run.start_s, other.start_s), min(run.end_s, other.end_s)
    if first_s > last_s:
        return False
    middle_s = (first_s + last_s) / 2
    beats = (
        run.phase_s + round((middle_s - run.phase_s) / run.period_s) * run.period_s - other.phase_s
    ) / other.period_s
    return abs(run.period_s / other.period_s - 1) < SAME_TEMPO and abs(beats - round(beats)) < SAME_BEAT


def _shared_out(
    fine: FloatArray, rate_hz: float, runs: list[Piece], duration_s: float, level: FloatArray
) -> list[Piece]:
    """Runs cut so that each moment belongs to the one that it is most like, or to none, with few changes."""
    times_s = np.arange(0.5, duration_s, 1.0)
    if not runs or not len(times_s):
        return []
    score = np.full((len(times_s), len(runs) + 1), NO_LIKENESS)
    for column, run in enumerate(runs):
        score[:, column] = np.interp(times_s, *like_over_time(fine, rate_hz, run), left=0.0, right=0.0)
    owner = best_owner(score, CHANGE_COST)
    edges = [0, *(np.flatnonzero(np.diff(owner)) + 1), len(times_s)]
    return [
        _cut(runs[owner[first]], float(first), min(float(end), duration_s), level, rate_hz)
        for first, end in pairwise(edges)
        if owner[first] < len(runs) and end - first >= SHORTEST_S
    ]


def _cut(run: Piece, start_s: float, end_s: float, level: FloatArray, rate_hz: float) -> Piece:
    return replace(
        run, start_s=start_s, end_s=end_s, strength=strength_between(level, rate_hz, start_s, end_s)
    )


def _settled(onsets: OnsetEnvelopes, piece: Piece) -> Piece:
    """The piece with its beat where its drums are heard over its whole length."""
    part = onsets.between(piece.start_s, piece.end_s)
    phase_s, share = beat_phase(part, piece.period_s)
    usual = float(onsets.high.mean())
    drums = float(part.high.mean()) / usual if usual > 0 else 1.0
    return replace(piece, phase_s=piece.start_s + phase_s, beat_share=share, drums=drums)
