"""Tempo in steps: the steady pieces of a track, and the beats on which one gives way to the next."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from vinyl.core.rhythm.onset import OnsetEnvelopes
from vinyl.core.rhythm.paths import best_owner
from vinyl.core.rhythm.steady import PROFILE_BINS, beat_phase, beat_rows, fine_sum, fit_steady, lags_against
from vinyl.core.rhythm.tempo import estimate_tempo

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Each window proposes a grid, if that holds this share of the window's onset strength.
WINDOW_S = 30.0
STEP_S = 10.0
EDGE_S = 15.0
LEAST_HELD = 0.7
# Frames of the envelope (5.8 ms each) below which a window says nothing.
LEAST_FRAMES = 1000
# How far beyond its window a piece is followed: far, if it passes the near end. Long steady stretches are
# joined again afterwards.
NEAR_S, FOLLOWED_S = 45.0, 300.0
# Windows are listened to in so many passes over the track. If in the first of them so many grids hold and
# less than this share of them is exact, the tempo moves.
PASSES = 3
LEAST_TOLD, LEAST_EXACT = 4, 0.25
# How far beyond it a piece competes with others.
COMPARED_S = 60.0
# A piece is followed in segments of so many beats; they agree if they correlate so well and lag no more.
SEGMENT_BEATS = 8
AGREED_LAG_S = 0.007
AGREEMENT = 0.35
# It ends where more than so many segments running disagree, and needs so many that agree.
FALSE_SEGMENTS = 1
LEAST_SEGMENTS = 3
ROUNDS = 3
# A period that changes less than this share has been found.
SETTLED = 1e-6
# Shorter pieces are not believed.
SHORTEST_S = 14.0
# So many grids compete for each second, or three a minute. A change between them costs as much
# likeness; below the least no grid holds.
MOST_CANDIDATES, SECONDS_A_CANDIDATE = 24, 20.0
CHANGE_COST, NO_LIKENESS = 3.0, 0.2
# What an octave away from the track's tempo costs, against a change by an octave.
OCTAVE_PULL = 0.3
# Grids with beats so near (in beats) and of the same tempo are one.
SAME_BEAT = 0.02
# Neighbours are one if their tempi differ by less than this share, and their beats by less than this part of
# a quarter of a beat; below this likeness a phase is hard to hear and does not count.
SAME_TEMPO = 0.0004
SAME_QUARTER = 0.1
SURE_ALIKE = 0.8
# A piece with less of the track's usual high attacks has no drums: one sound on its own says nothing of which
# quarter of a beat it lies on. Made-up pieces without drums have at most 0.46, others at least 0.7.
LEAST_DRUMS = 0.57
# A piece that is less alike than this is one with a neighbour of so near a tempo.
LEAST_ALIKE, NEAR_TEMPO = 0.6, 0.01
# A track takes steps if its pieces explain this share of the onset strength, are so alike in themselves and
# stray no more: made-up stepped pieces stray by at most 0.5 ms, drummers by 0.8 to 4 ms.
LEAST_EXPLAINED = 0.8
MEAN_ALIKE = 0.7
MOST_SPREAD_S = 0.001

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Piece:
    """Beats at ``phase_s + n * period_s`` that hold from ``start_s`` to ``end_s``.

    ``strength`` is how much onset strength they explain, ``alike`` how like its own mean each segment is,
    ``spread_s`` how far the segments stray from the grid (root mean square), ``beat_share`` (0 to 1) how
    clearly its beat stands out from the off-beat, and ``drums`` how many high attacks it has (1 is usual in
    its track).
    """

    start_s: float
    end_s: float
    period_s: float
    phase_s: float
    strength: float = 0.0
    alike: float = 0.0
    spread_s: float = 0.0
    beat_share: float = 0.0
    drums: float = 1.0

    @property
    def has_drums(self) -> bool:
        return self.drums >= LEAST_DRUMS


@dataclass(frozen=True, slots=True)
class _Segments:
    """Segments of SEGMENT_BEATS beats against a piece: middle, lag, weight, likeness, and whether they agree
    with it.
    """

    centres_s: FloatArray
    lags_s: FloatArray
    weights: FloatArray
    alike: FloatArray
    agrees: NDArray[np.bool_]


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
                run = _follow(fine, onsets.fine_rate_hz, proposal, level) if proposal else None
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
    found = [_settled(onsets, piece) for piece in _in_octaves(bpm, shared)]
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
        score[:, column] = np.interp(times_s, *_like_over_time(fine, rate_hz, run), left=0.0, right=0.0)
    owner = best_owner(score, CHANGE_COST)
    edges = [0, *(np.flatnonzero(np.diff(owner)) + 1), len(times_s)]
    return [
        _cut(runs[owner[first]], float(first), min(float(end), duration_s), level, rate_hz)
        for first, end in pairwise(edges)
        if owner[first] < len(runs) and end - first >= SHORTEST_S
    ]


def _like_over_time(fine: FloatArray, rate_hz: float, run: Piece) -> tuple[FloatArray, FloatArray]:
    """Times in seconds, and how like the run's own onsets those there are, where they lie on its beats."""
    around, first_s = _around(fine, rate_hz, run, COMPARED_S)
    segments = _agreement(around, rate_hz, _moved(run, -first_s))
    like = segments.alike * np.exp(-((segments.lags_s / AGREED_LAG_S) ** 2))
    return segments.centres_s + first_s, like


def _around(fine: FloatArray, rate_hz: float, piece: Piece, reach_s: float) -> tuple[FloatArray, float]:
    """The envelope so far beyond a piece on both sides, and the time at which that begins."""
    first = max(round((piece.start_s - reach_s) * rate_hz), 0)
    return fine[first : round((piece.end_s + reach_s) * rate_hz)], first / rate_hz


def _cut(run: Piece, start_s: float, end_s: float, level: FloatArray, rate_hz: float) -> Piece:
    return replace(run, start_s=start_s, end_s=end_s, strength=_between(level, rate_hz, start_s, end_s))


def _between(level: FloatArray, rate_hz: float, start_s: float, end_s: float) -> float:
    first, last = (min(max(round(t * rate_hz), 0), len(level) - 1) for t in (start_s, end_s))
    return float(level[last] - level[first])


def _proposal(
    onsets: OnsetEnvelopes, start_s: float, end_s: float, window_bpm: tuple[float, float] | None
) -> Piece | None:
    """The grid of one window, if it holds there."""
    part = onsets.between(start_s, end_s)
    if len(part.low) < LEAST_FRAMES:
        return None
    fit = fit_steady(part, 60.0 / estimate_tempo(part, window_bpm).bpm)
    return Piece(start_s, end_s, fit.period_s, start_s + fit.phase_s) if fit.held >= LEAST_HELD else None


def _follow(fine: FloatArray, rate_hz: float, piece: Piece, level: FloatArray) -> Piece | None:
    """The piece as far as it holds in both directions, its tempo and phase refined on the way."""
    near = _followed(fine, rate_hz, piece, NEAR_S)
    if near is None:
        return None
    passes = near.start_s < piece.start_s - NEAR_S + EDGE_S or near.end_s > piece.end_s + NEAR_S - EDGE_S
    found = _followed(fine, rate_hz, near, FOLLOWED_S) if passes else near
    if found is None or found.end_s - found.start_s < SHORTEST_S:
        return None
    return replace(found, strength=_between(level, rate_hz, found.start_s, found.end_s))


def _followed(fine: FloatArray, rate_hz: float, piece: Piece, reach_s: float) -> Piece | None:
    """The piece as far as it holds within so many seconds beyond it."""
    around, first_s = _around(fine, rate_hz, piece, reach_s)
    found: Piece | None = _moved(piece, -first_s)
    for _ in range(ROUNDS):
        if found is None:
            return None
        before = found
        found = _extended(_agreement(around, rate_hz, before), before)
        if found and abs(found.period_s - before.period_s) < SETTLED * before.period_s:
            break
    return _moved(found, first_s) if found else None


def _moved(piece: Piece, by_s: float) -> Piece:
    return replace(
        piece, start_s=piece.start_s + by_s, end_s=piece.end_s + by_s, phase_s=piece.phase_s + by_s
    )


def _extended(segments: _Segments, piece: Piece) -> Piece | None:
    """The piece over all segments around its middle that agree, refitted to their lags."""
    middle = int(np.argmin(np.abs(segments.centres_s - (piece.start_s + piece.end_s) / 2)))
    first, last = _reach(segments.agrees, middle, -1), _reach(segments.agrees, middle, 1)
    used = np.arange(first, last + 1)[segments.agrees[first : last + 1]]
    if len(used) < LEAST_SEGMENTS:
        return None
    centres_s, lags_s, weights = segments.centres_s[used], segments.lags_s[used], segments.weights[used]
    slope, offset = (float(v) for v in np.polyfit(centres_s, lags_s, 1, w=np.sqrt(weights)))
    strays_s = lags_s - offset - slope * centres_s
    half_s = SEGMENT_BEATS / 2 * piece.period_s
    period_s, phase_s = _shift(piece, slope, offset, float(centres_s.mean()))
    return Piece(
        start_s=max(float(centres_s[0]) - half_s, 0.0),
        end_s=float(centres_s[-1]) + half_s,
        period_s=period_s,
        phase_s=phase_s,
        alike=float(segments.alike[used].mean()),
        spread_s=float(np.sqrt(np.average(strays_s**2, weights=weights))),
    )


def _shift(piece: Piece, slope: float, offset_s: float, pivot_s: float) -> tuple[float, float]:
    """Period and phase moved by a lag of ``offset_s + slope * time``, as seen at the pivot."""
    beats = round((pivot_s - piece.phase_s) / piece.period_s)
    period_s = piece.period_s * (1.0 + slope)
    return period_s, piece.phase_s + beats * (piece.period_s - period_s) + offset_s + slope * pivot_s


def _agreement(fine: FloatArray, rate_hz: float, piece: Piece) -> _Segments:
    """How segments of beats along the whole track agree with the piece's own onsets."""
    bins = round(piece.period_s * rate_hz)
    beat, rows = beat_rows(
        fine, bins / (rate_hz * piece.period_s), bins, rate_hz * (0.25 * piece.period_s - piece.phase_s)
    )
    first = beat // SEGMENT_BEATS
    segment = (beat + np.arange(len(rows))) // SEGMENT_BEATS - first
    profiles = np.add.reduceat(rows, np.flatnonzero(np.diff(segment, prepend=-1)), axis=0)
    count = len(profiles)
    profiles = gaussian_filter1d(profiles, PROFILE_BINS, axis=1, mode="wrap")
    centres_s = piece.phase_s + ((np.arange(count) + first + 0.5) * SEGMENT_BEATS - 0.25) * piece.period_s
    own = (centres_s > piece.start_s) & (centres_s < piece.end_s)
    lags_s, weights, alike = lags_against(profiles, profiles[own].sum(axis=0), piece.period_s)
    agrees = (alike > AGREEMENT) & (np.abs(lags_s) < AGREED_LAG_S)
    return _Segments(centres_s.astype(np.float64), lags_s, weights, alike, agrees)


def _reach(agrees: NDArray[np.bool_], start: int, step: int) -> int:
    """The last agreeing segment before more than FALSE_SEGMENTS disagree running."""
    last, wrong, index = start, 0, start
    while 0 <= index < len(agrees) and wrong <= FALSE_SEGMENTS:
        if agrees[index]:
            last, wrong = index, 0
        else:
            wrong += 1
        index += step
    return last


def _settled(onsets: OnsetEnvelopes, piece: Piece) -> Piece:
    """The piece with its beat where its drums are heard over its whole length."""
    part = onsets.between(piece.start_s, piece.end_s)
    phase_s, share = beat_phase(part, piece.period_s)
    usual = float(onsets.high.mean())
    drums = float(part.high.mean()) / usual if usual > 0 else 1.0
    return replace(piece, phase_s=piece.start_s + phase_s, beat_share=share, drums=drums)


def _in_octaves(bpm: float, pieces: list[Piece]) -> list[Piece]:
    """The pieces in such octaves of their tempi, within one of bpm, that these change and stray from it least
    (Viterbi, 1967).
    """
    if not pieces:
        return []
    periods_s = np.array([[piece.period_s] for piece in pieces])
    periods_s = periods_s * 2.0 ** (np.rint(np.log2(60.0 / bpm / periods_s)) + np.array([-1, 0, 1]))
    octaves = np.log2(60.0 / bpm / periods_s)
    strays = np.where(np.abs(octaves) < 1.0, OCTAVE_PULL * np.abs(octaves), np.inf)
    total, back = strays[0], np.zeros(octaves.shape, np.int64)
    for row in range(1, len(octaves)):
        cost = total[None, :] + np.abs(octaves[row][:, None] - octaves[row - 1][None, :])
        back[row] = cost.argmin(axis=1)
        total = cost.min(axis=1) + strays[row]
    best = [int(total.argmin())]
    for row in range(len(octaves) - 1, 0, -1):
        best.append(int(back[row, best[-1]]))
    chosen = periods_s[np.arange(len(best)), best[::-1]]
    return [replace(each, period_s=float(period)) for each, period in zip(pieces, chosen, strict=True)]


def join_same(pieces: list[Piece]) -> list[Piece]:
    """Pieces with neighbours of the same tempo and phase (or quarters of a beat apart, or with a phase hard
    to hear, or without drums) made one.
    """
    joined = pieces[:1]
    for piece in pieces[1:]:
        before = joined[-1]
        longer, other = sorted((before, piece), key=lambda p: p.start_s - p.end_s)
        if _same(before, piece):
            joined[-1] = replace(
                _as_drummed(longer, other) if other.has_drums and not longer.has_drums else longer,
                start_s=before.start_s,
                end_s=piece.end_s,
                strength=before.strength + piece.strength,
            )
        else:
            joined.append(piece)
    return joined


def _as_drummed(piece: Piece, other: Piece) -> Piece:
    """The piece with its beats on those of another of its tempo."""
    middle_s = (other.start_s + other.end_s) / 2
    phase_s = other.phase_s + round((middle_s - other.phase_s) / other.period_s) * other.period_s
    return replace(piece, phase_s=phase_s, beat_share=other.beat_share, drums=other.drums)


def _same(a: Piece, b: Piece) -> bool:
    alike = min(a.alike, b.alike)
    if abs(a.period_s / b.period_s - 1) > (SAME_TEMPO if alike >= LEAST_ALIKE else NEAR_TEMPO):
        return False
    if alike < SURE_ALIKE or not (a.has_drums and b.has_drums):
        return True
    near = a.phase_s + round((b.start_s - a.phase_s) / a.period_s) * a.period_s
    quarters = (near - b.phase_s) / (b.period_s / 4)
    return abs(quarters - round(quarters)) < SAME_QUARTER
