"""One track mixed into another: both laid beat on beat over one time, with the tempo they meet at, their
fades, and where the low end changes hands.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import VinylError
from vinyl.core.rhythm.tempo_map import TempoMap

# At whose tempo they meet: the first's, the second's, between both, or gliding from one to the other.
Meet = Literal["first", "second", "between", "gliding"]
MOST_BARS, USUAL_BARS = 256, 16
# Beats over which the tempo glides from a track's own to that at which they meet, and back.
GLIDE_BEATS = 16
# What is heard before and after the overlap.
BEFORE_S, AFTER_S = 12.0, 12.0
# A track is made louder or softer by so much at most, and a peak is left room.
MOST_GAIN_DB, PEAK_ROOM_DB = 12.0, -0.3
# Steps of a fade, and how long a cut takes.
FADE_STEPS, CUT_S = 32, 0.006

Floats = NDArray[np.float64]


class MixError(VinylError):
    """Two tracks that cannot be laid beat on beat."""


@dataclass(frozen=True, slots=True)
class Side:
    """A track as it is mixed: its beatgrid, and the points that are known of it; loudness may not be."""

    tempo_map: TempoMap
    duration_s: float
    in_s: float | None = None
    main_s: float | None = None
    out_s: float | None = None
    drops_s: tuple[float, ...] = ()
    lufs: float | None = None
    true_peak_db: float | None = None


@dataclass(frozen=True, slots=True)
class Settings:
    """How one goes over into the other.

    Attributes:
        out_s: time in the outgoing track from which both sound; None for where it is usual.
        in_s: time in the incoming track that sounds then.
        over_bars: for how many bars of the outgoing both sound; 0 is a cut.
        fade_bars: over how many bars the one comes and the other goes; None for all of them.
        low_bar: at which bar (1 is the first) the low end changes hands; None for not at all.
    """

    out_s: float | None = None
    in_s: float | None = None
    over_bars: int = USUAL_BARS
    meet: Meet = "first"
    fade_bars: int | None = None
    low_bar: int | None = None


@dataclass(frozen=True, slots=True)
class Mix:
    """Two tracks over one time, 0 where the overlap begins.

    Attributes:
        knots: (n, 3): times of the mix, of the outgoing and of the incoming, a beat of the outgoing apart;
            between two, each runs on evenly.
        bars_s: where bars of the outgoing begin in the overlap, and where it ends, (bars + 1,).
        fades: (m, 3): times of the mix, gain of the outgoing and of the incoming (0 to 1).
        low_s: where the low end changes hands.
        gain_db: by how much the incoming is made louder to be as loud as the outgoing.
    """

    settings: Settings
    knots: Floats
    bars_s: Floats
    over_s: float
    fades: Floats
    low_s: float | None
    gain_db: float


def mix(out: Side, into: Side, wanted: Settings) -> Mix:
    """Lay two tracks on each other; points lie on beats of their grids.

    Raises:
        MixError: for bars that are too many.
    """
    settings = settled(out, into, wanted)
    assert settings.out_s is not None and settings.in_s is not None
    out_beat = out.tempo_map.nearest_beat(settings.out_s)
    in_beat = into.tempo_map.nearest_beat(settings.in_s)
    beats = settings.over_bars * out.tempo_map.beats_per_bar
    ratio = _counted(out.tempo_map, into.tempo_map, out_beat, in_beat)
    first, last = _first_and_last(out.tempo_map, out_beat, beats)
    steps = np.arange(first, last + 1)
    out_s = out.tempo_map.time_at(out_beat + steps)
    in_s = into.tempo_map.time_at(in_beat + ratio * steps)
    share = _share_of_second((steps[:-1] + 0.5).astype(np.float64), beats, settings.meet)
    lengths = np.diff(out_s) ** (1.0 - share) * np.diff(in_s) ** share
    times = np.concatenate([[0.0], np.cumsum(lengths)])
    times -= times[-first]
    bars_s = times[-first + np.arange(settings.over_bars + 1) * out.tempo_map.beats_per_bar]
    low_s = None if settings.low_bar is None else float(bars_s[settings.low_bar - 1])
    return Mix(
        settings, np.stack([times, out_s, in_s], axis=1), bars_s, float(bars_s[-1]),
        _fades(bars_s, settings), low_s, _gain_db(out, into),
    )  # fmt: skip


def settled(out: Side, into: Side, wanted: Settings) -> Settings:
    """Settings with every point said, on beats; one that lies outside a track (its file was changed) is where
    it is usual.

    Raises:
        MixError: for bars that are too many.
    """
    bars = wanted.over_bars
    if not 0 <= bars <= MOST_BARS:
        raise MixError(f"Two tracks sound together for 0 to {MOST_BARS} bars.")
    fade = None if wanted.fade_bars is None or wanted.fade_bars >= bars else max(0, wanted.fade_bars)
    low = None if wanted.low_bar is None or not bars else min(max(1, wanted.low_bar), bars)
    return replace(
        wanted,
        out_s=_on_beat(out, _first_within(out, wanted.out_s, out.out_s, _usual_out_s(out, bars))),
        in_s=_on_beat(
            into, _first_within(into, wanted.in_s, into.in_s, float(into.tempo_map.time_at(0)), 0.0)
        ),
        fade_bars=fade,
        low_bar=low,
    )


def _first_within(side: Side, *points_s: float | None) -> float:
    return next(each for each in points_s if each is not None and 0.0 <= each <= side.duration_s)


def _on_beat(side: Side, time_s: float) -> float:
    """The nearest beat within the track."""
    beat = side.tempo_map.nearest_beat(time_s)
    times = side.tempo_map.time_at([beat, beat + 1, beat - 1])
    return next((float(each) for each in times if 0.0 <= each <= side.duration_s), time_s)


def _usual_out_s(side: Side, bars: int) -> float:
    """The last phrase from which so many bars are left, or the last bar, or the start."""
    grid = side.tempo_map
    end = float(grid.beat_at(side.duration_s)) - bars * grid.beats_per_bar
    for unit in (grid.beats_per_bar * grid.phrase_bars, grid.beats_per_bar):
        time_s = float(grid.time_at(math.floor(end / unit) * unit))
        if time_s > side.duration_s / 2:
            return time_s
    return min(max(0.0, float(grid.time_at(math.floor(end)))), side.duration_s)


def _counted(out: TempoMap, into: TempoMap, out_beat: int, in_beat: int) -> float:
    """Beats of the incoming to one of the outgoing: one, or two or a half where it is about twice as fast or
    slow.
    """
    first, second = (
        float(np.diff(grid.time_at([beat, beat + 4]))[0]) for grid, beat in ((out, out_beat), (into, in_beat))
    )
    return float(2.0 ** min(1, max(-1, round(math.log2(first / second)))))


def _first_and_last(out: TempoMap, out_beat: int, beats: int) -> tuple[int, int]:
    """The beats, from the start of the overlap on, that are laid: with what is heard before and after."""
    start_s = float(out.time_at(out_beat))
    first = min(-GLIDE_BEATS, math.floor(float(out.beat_at(start_s - BEFORE_S))) - out_beat)
    end_s = float(out.time_at(out_beat + beats))
    last = max(beats + GLIDE_BEATS, math.ceil(float(out.beat_at(end_s + 2 * AFTER_S))) - out_beat)
    return first, last


def _share_of_second(at: Floats, beats: int, meet: Meet) -> Floats:
    """How much of the tempo is the second's at beats from the start of the overlap on: 0 to 1."""
    middle = {"first": 0.0, "second": 1.0, "between": 0.5, "gliding": 0.0}[meet]
    before = np.clip(1.0 + at / GLIDE_BEATS, 0.0, 1.0) * middle
    if meet == "gliding" and beats:
        return np.clip(at / beats, 0.0, 1.0)
    after = middle + np.clip((at - beats) / GLIDE_BEATS, 0.0, 1.0) * (1.0 - middle)
    return np.where(at < 0, before, after)


def _fades(bars_s: Floats, settings: Settings) -> Floats:
    """Equal powers while one comes and the other goes."""
    bars = settings.over_bars
    if not bars:
        return np.array([[-CUT_S, 1.0, 0.0], [0.0, 0.0, 1.0]])
    fade = bars if settings.fade_bars is None else settings.fade_bars
    comes = (0.0, max(float(bars_s[fade]), CUT_S))
    goes = (min(float(bars_s[bars - fade]), float(bars_s[-1]) - CUT_S), float(bars_s[-1]))
    at = np.unique(np.concatenate([np.linspace(*each, FADE_STEPS + 1) for each in (comes, goes)]))
    come, go = ((np.clip((at - a) / (b - a), 0.0, 1.0) * math.pi / 2) for a, b in (comes, goes))
    return np.stack([at, np.cos(go), np.sin(come)], axis=1)


def _gain_db(out: Side, into: Side) -> float:
    """What makes the incoming as loud as the outgoing, as far as its peak has room."""
    if out.lufs is None or into.lufs is None:
        return 0.0
    wanted = out.lufs - into.lufs
    if into.true_peak_db is not None:
        wanted = min(wanted, max(0.0, PEAK_ROOM_DB - into.true_peak_db))
    return max(-MOST_GAIN_DB, min(MOST_GAIN_DB, wanted))


def drops_meet(out: Side, into: Side, settings: Settings) -> Settings:
    """Settings by which the incoming's main part begins with a drop of the outgoing: that drop which moves
    the out point least, and an overlap that reaches it.

    Raises:
        MixError: if a main part or a drop is not known, or it lies too near to a start.
    """
    now = settled(out, into, settings)
    assert now.out_s is not None and now.in_s is not None
    if into.main_s is None or into.main_s <= now.in_s:
        raise MixError(
            "Where the incoming track's main part begins is not known, or it lies before its in point."
        )
    out_beat, in_beat = out.tempo_map.nearest_beat(now.out_s), into.tempo_map.nearest_beat(now.in_s)
    ratio = _counted(out.tempo_map, into.tempo_map, out_beat, in_beat)
    lead = round((into.tempo_map.nearest_beat(into.main_s) - in_beat) / ratio)
    found = list(_starts_before(out, out.drops_s, lead))
    if not found:
        raise MixError("The outgoing track has no drop far enough from its start.")
    start = min(found, key=lambda beat: abs(beat - out_beat))
    bars = math.ceil(lead / out.tempo_map.beats_per_bar)
    return settled(
        out, into, replace(now, out_s=float(out.tempo_map.time_at(start)), over_bars=max(bars, now.over_bars))
    )


def _starts_before(side: Side, drops_s: Sequence[float], lead: int) -> Iterator[int]:
    """Beats so many before each drop that lie within the track."""
    for drop_s in drops_s:
        beat = side.tempo_map.nearest_beat(drop_s) - lead
        if 0.0 <= float(side.tempo_map.time_at(beat)) <= side.duration_s:
            yield beat


def moved(out: Side, into: Side, settings: Settings, out_beats: int = 0, in_beats: int = 0) -> Settings:
    """Settings whose points lie so many beats later; a point stays where there is no such beat.

    Raises:
        MixError: for bars that are too many.
    """
    now = settled(out, into, settings)
    assert now.out_s is not None and now.in_s is not None
    return replace(now, out_s=_beats_on(out, now.out_s, out_beats), in_s=_beats_on(into, now.in_s, in_beats))


def _beats_on(side: Side, time_s: float, beats: int) -> float:
    there_s = float(side.tempo_map.time_at(side.tempo_map.nearest_beat(time_s) + beats))
    return there_s if 0.0 <= there_s <= side.duration_s else time_s
