"""The beatgrid: anchors on a timeline, with conversion between seconds and beats."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from vinyl.core.errors import TempoMapError

MIN_BPM = 30.0
MAX_BPM = 300.0
METRES = (3, 4, 5, 6, 7)
# A tempo that only rounding has carried beyond a limit lies on it.
BPM_ROUNDING = 1e-9
ELASTIC_ANCHOR_BARS = 4

Kind = Literal["steady", "stepped", "elastic"]
SnapUnit = Literal["beat", "bar", "phrase", "off"]
FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Anchor:
    """A beat that is pinned to a time; ``bpm`` goes on where no neighbour says otherwise."""

    time_s: float
    beat: float
    bpm: float


@dataclass(frozen=True, slots=True)
class TempoMap:
    """A beatgrid. Beat 0 is the first downbeat.

    Between two anchors the tempo is what the beats between them make it; before the first anchor and
    after the last, its own bpm goes on.

    Raises:
        TempoMapError: if times or beats do not strictly increase, or a tempo leaves 30 to 300 bpm.
    """

    anchors: tuple[Anchor, ...]
    beats_per_bar: int = 4
    phrase_bars: int = 8

    def __post_init__(self) -> None:
        if not self.anchors:
            raise TempoMapError("A beatgrid needs at least one anchor.")
        if self.beats_per_bar not in METRES:
            raise TempoMapError(f"A bar can have 3 to 7 beats, not {self.beats_per_bar}.")
        for anchor in self.anchors:
            check_bpm(anchor.bpm)
        for before, after in zip(self.anchors, self.anchors[1:], strict=False):
            _check_pair(before, after)

    @classmethod
    def steady(cls, bpm: float, first_downbeat_s: float, beats_per_bar: int = 4) -> TempoMap:
        """One tempo and one phase over the whole track."""
        return cls((Anchor(first_downbeat_s, 0.0, bpm),), beats_per_bar)

    @property
    def kind(self) -> Kind:
        """Steady has one anchor, elastic one every few bars, stepped is between."""
        if len(self.anchors) == 1:
            return "steady"
        span = self.anchors[-1].beat - self.anchors[0].beat
        dense = span / (len(self.anchors) - 1) <= ELASTIC_ANCHOR_BARS * self.beats_per_bar
        return "elastic" if dense and len(self.anchors) > 4 else "stepped"

    @property
    def bpm(self) -> float:
        """The only tempo, the one that holds longest between anchors, or of an elastic map the mean."""
        if len(self.anchors) == 1:
            return self.anchors[0].bpm
        longest, after = self.anchors[0], self.anchors[-1]
        if self.kind == "stepped":
            pairs = zip(self.anchors, self.anchors[1:], strict=False)
            longest, after = max(pairs, key=lambda pair: pair[1].time_s - pair[0].time_s)
        return (after.beat - longest.beat) / (after.time_s - longest.time_s) * 60.0

    def time_at(self, beats: ArrayLike) -> FloatArray:
        """Seconds of each beat number, in the shape given (fractions and negative numbers too)."""
        times, numbers = self._knots()
        return _interpolate(np.asarray(beats, dtype=np.float64), numbers, times)

    def beat_at(self, times_s: ArrayLike) -> FloatArray:
        """Beat number at each time in seconds, in the shape given."""
        times, numbers = self._knots()
        return _interpolate(np.asarray(times_s, dtype=np.float64), times, numbers)

    def beats_between(self, start_s: float, end_s: float) -> FloatArray:
        """Times (n,) in seconds of all whole beats with start_s <= time < end_s."""
        return self._multiples_between(start_s, end_s, 1)

    def downbeats_between(self, start_s: float, end_s: float) -> FloatArray:
        """Times (n,) in seconds of all bar starts with start_s <= time < end_s."""
        return self._multiples_between(start_s, end_s, self.beats_per_bar)

    def snap(self, time_s: float, unit: SnapUnit) -> float:
        """The nearest beat, bar start or phrase start to a time, or the time itself for "off"."""
        if unit == "off":
            return time_s
        bar = self.beats_per_bar
        beats = {"beat": 1, "bar": bar, "phrase": bar * self.phrase_bars}[unit]
        return float(self.time_at(round(float(self.beat_at(time_s)) / beats) * beats))

    def nearest_beat(self, time_s: float) -> int:
        """Number of the whole beat that is nearest to a time."""
        return round(float(self.beat_at(time_s)))

    def _multiples_between(self, start_s: float, end_s: float, beats: int) -> FloatArray:
        first, last = (self.beat_at([start_s, end_s]) - 1e-9) / beats
        return self.time_at(beats * np.arange(math.ceil(first), math.ceil(last)))

    def _knots(self) -> tuple[FloatArray, FloatArray]:
        """Anchor times and beats with one more knot on each side, where the outer tempi go on."""
        first, last = self.anchors[0], self.anchors[-1]
        times = [first.time_s - 60.0, *(a.time_s for a in self.anchors), last.time_s + 60.0]
        beats = [first.beat - first.bpm, *(a.beat for a in self.anchors), last.beat + last.bpm]
        return np.array(times), np.array(beats)


def check_bpm(bpm: float) -> None:
    """Raise TempoMapError for a tempo no grid may have."""
    if not MIN_BPM <= bpm <= MAX_BPM:
        raise TempoMapError(f"A tempo must lie between {MIN_BPM:g} and {MAX_BPM:g} bpm; {bpm:g} does not.")


def checked_bpm(bpm: float) -> float:
    """The tempo itself, if a grid may have it; just outside the limits by rounding it is put on them.

    Raises:
        TempoMapError: if not.
    """
    rounded = min(max(bpm, MIN_BPM), MAX_BPM)
    if abs(rounded - bpm) > BPM_ROUNDING:
        check_bpm(bpm)
    return rounded


def anchors_from(rows: Iterable[dict[str, float]]) -> tuple[Anchor, ...]:
    """Anchors from their plain form, as stored and exchanged: ``{"time", "beat", "bpm"}``."""
    return tuple(Anchor(row["time"], row["beat"], row["bpm"]) for row in rows)


def anchors_to(tempo_map: TempoMap) -> list[dict[str, float]]:
    """The plain form of a map's anchors."""
    return [{"time": a.time_s, "beat": a.beat, "bpm": a.bpm} for a in tempo_map.anchors]


def _check_pair(before: Anchor, after: Anchor) -> None:
    if not (before.time_s < after.time_s and before.beat < after.beat):
        raise TempoMapError(
            "Anchors must stand in order: each later in time and in beats than the one before."
        )
    check_bpm((after.beat - before.beat) / (after.time_s - before.time_s) * 60.0)


def _interpolate(x: FloatArray, at: FloatArray, to: FloatArray) -> FloatArray:
    """Piecewise linear through the knots (at, to), going on beyond both ends."""
    segment = np.clip(np.searchsorted(at, x, side="right") - 1, 0, len(at) - 2)
    slope = np.diff(to) / np.diff(at)
    result: FloatArray = to[segment] + (x - at[segment]) * slope[segment]
    return result
