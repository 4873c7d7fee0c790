"""How far a steady piece holds on either side, and how like its own onsets those along the track are."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from vinyl.core.rhythm.piece import Piece
from vinyl.core.rhythm.steady import PROFILE_BINS, beat_rows, lags_against

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# How far beyond its window a piece is followed: far, if it passes the near end. Long steady stretches are
# joined again afterwards.
NEAR_S, FOLLOWED_S = 45.0, 300.0
# It passes that end if it comes so near.
EDGE_S = 15.0
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

FloatArray = NDArray[np.float64]


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


def follow(fine: FloatArray, rate_hz: float, piece: Piece, level: FloatArray) -> Piece | None:
    """The piece as far as it holds in both directions, its tempo and phase refined on the way."""
    near = _followed(fine, rate_hz, piece, NEAR_S)
    if near is None:
        return None
    passes = near.start_s < piece.start_s - NEAR_S + EDGE_S or near.end_s > piece.end_s + NEAR_S - EDGE_S
    found = _followed(fine, rate_hz, near, FOLLOWED_S) if passes else near
    if found is None or found.end_s - found.start_s < SHORTEST_S:
        return None
    return replace(found, strength=strength_between(level, rate_hz, found.start_s, found.end_s))


def _followed(fine: FloatArray, rate_hz: float, piece: Piece, reach_s: float) -> Piece | None:
    """The piece as far as it holds within so many seconds beyond it."""
    around, first_s = _around(fine, rate_hz, piece, reach_s)
    found: Piece | None = piece.moved(-first_s)
    for _ in range(ROUNDS):
        if found is None:
            return None
        before = found
        found = _extended(_agreement(around, rate_hz, before), before)
        if found and abs(found.period_s - before.period_s) < SETTLED * before.period_s:
            break
    return found.moved(first_s) if found else None


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


def like_over_time(fine: FloatArray, rate_hz: float, run: Piece) -> tuple[FloatArray, FloatArray]:
    """Times in seconds, and how like the run's own onsets those there are, where they lie on its beats."""
    around, first_s = _around(fine, rate_hz, run, COMPARED_S)
    segments = _agreement(around, rate_hz, run.moved(-first_s))
    like = segments.alike * np.exp(-((segments.lags_s / AGREED_LAG_S) ** 2))
    return segments.centres_s + first_s, like


def _around(fine: FloatArray, rate_hz: float, piece: Piece, reach_s: float) -> tuple[FloatArray, float]:
    """The envelope so far beyond a piece on both sides, and the time at which that begins."""
    first = max(round((piece.start_s - reach_s) * rate_hz), 0)
    return fine[first : round((piece.end_s + reach_s) * rate_hz)], first / rate_hz


def strength_between(level: FloatArray, rate_hz: float, start_s: float, end_s: float) -> float:
    first, last = (min(max(round(t * rate_hz), 0), len(level) - 1) for t in (start_s, end_s))
    return float(level[last] - level[first])
