"""Grids, cues and routes of one file as they stand in another of the same recording, and how what comes is
joined with what is there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from vinyl.core.cues.cue import Cue
from vinyl.core.cues.routes import Jump, RouteError, stretches
from vinyl.core.errors import VinylError
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap
from vinyl.core.twins.alignment import Alignment
from vinyl.core.twins.relating import Attacks

# A cue this near to an attack was set on it, and stands as near to the same attack of the other file.
ON_ATTACK_S = 0.005
# Cues no further apart are one, if both or neither are loops.
SAME_CUE_S = 0.02
# Grids that differ by no more, in beats at the file's ends, are one.
SAME_GRID_BEATS = 0.02


@dataclass(slots=True)
class Merged:
    """Cues of the kept file with those that came: ``added``, those of its own that ``changed``; ``lost`` are
    those that lie outside it, and ``given_up`` says which roles and pads another cue has kept.
    """

    added: list[Cue] = field(default_factory=list)
    changed: list[Cue] = field(default_factory=list)
    lost: list[Cue] = field(default_factory=list)
    given_up: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Way:
    """How times of a file become times of the kept one, which lasts so long; attacks of both where known."""

    alignment: Alignment
    duration_s: float
    attacks_here: Attacks | None = None
    attacks_there: Attacks | None = None

    def time(self, time_s: float) -> float:
        """Where a time of the file lies in the kept one, as near to the same attack as it was."""
        there_s = self.alignment.there(time_s)
        if self.attacks_here is None or self.attacks_there is None:
            return there_s
        here = _nearest(self.attacks_here, time_s)
        if here is None or abs(here - time_s) > ON_ATTACK_S:
            return there_s
        attack = _nearest(self.attacks_there, self.alignment.there(here))
        if attack is None or abs(attack - self.alignment.there(here)) > ON_ATTACK_S:
            return there_s
        return attack + self.alignment.speed * (time_s - here)


def _nearest(attacks_s: Attacks, time_s: float) -> float | None:
    if not len(attacks_s):
        return None
    place = int(np.searchsorted(attacks_s, time_s))
    return min(
        (float(each) for each in attacks_s[max(place - 1, 0) : place + 1]), key=lambda at: abs(at - time_s)
    )


def moved_point(point: Cue, way: Way) -> Cue | None:
    """A cue in the kept file; None where that place is not in it."""
    position_s = way.time(point.position_s)
    if -ON_ATTACK_S <= position_s < 0.0:
        position_s = 0.0
    length_s = None if point.length_s is None else point.length_s * way.alignment.speed
    ends_s = position_s + (length_s or 0.0)
    if position_s < 0.0 or ends_s > way.duration_s:
        return None
    return replace(point, position_s=position_s, length_s=length_s, id=0)


def moved_grid(grid: TempoMap, way: Way) -> TempoMap:
    """A grid in the kept file.

    Raises:
        TempoMapError: where its tempo would be none that a grid may have.
    """
    speed = way.alignment.speed
    anchors = tuple(
        Anchor(way.alignment.there(anchor.time_s), anchor.beat, anchor.bpm / speed) for anchor in grid.anchors
    )
    return TempoMap(anchors, grid.beats_per_bar, grid.phrase_bars)


def moved_jumps(jumps: Sequence[Jump], way: Way) -> tuple[Jump, ...] | None:
    """A route in the kept file; None where it does not lead through it."""
    moved = tuple(Jump(way.time(jump.from_s), max(way.time(jump.to_s), 0.0)) for jump in jumps)
    try:
        stretches(moved, way.duration_s)
    except (RouteError, VinylError):
        return None
    return moved


def same_grid(one: TempoMap, other: TempoMap, duration_s: float) -> bool:
    """Whether two grids have the same beats and bars throughout."""
    at_s = np.linspace(0.0, duration_s, 9)
    apart = one.beat_at(at_s) - other.beat_at(at_s)
    bars = apart / one.beats_per_bar
    whole = bool(np.all(np.abs(bars - np.rint(bars[0])) * one.beats_per_bar <= SAME_GRID_BEATS))
    return whole and one.beats_per_bar == other.beats_per_bar


def merge_points(kept: Sequence[Cue], coming: Sequence[tuple[Sequence[Cue], Way]]) -> Merged:
    """Join cues of copies with those of the kept file: none is there twice, none is lost that lies within the
    file. A pad or role that is taken stays where it is.
    """
    merged, there = Merged(), list(kept)
    for points, way in coming:
        for point in points:
            moved = moved_point(point, way)
            if moved is None:
                merged.lost.append(point)
            else:
                _join(there, moved, merged.given_up)
    merged.added = [point for point in there if not point.id]
    merged.changed = [point for point in there if point.id and point not in kept]
    return merged


def _join(there: list[Cue], moved: Cue, given_up: list[str]) -> None:
    same = next((place for place, each in enumerate(there) if _is_same(each, moved)), None)
    if same is None:
        there.append(_without_taken(moved, there, given_up))
    else:
        there[same] = _with_more(there[same], moved, there, given_up)


def _is_same(one: Cue, other: Cue) -> bool:
    near = abs(one.position_s - other.position_s) <= SAME_CUE_S
    if one.length_s is None or other.length_s is None:
        return near and one.length_s is other.length_s
    return near and abs(one.length_s - other.length_s) <= SAME_CUE_S


def _without_taken(point: Cue, there: Sequence[Cue], given_up: list[str]) -> Cue:
    if point.pad is not None and any(each.pad == point.pad for each in there):
        given_up.append(f"pad {point.pad}")
        point = replace(point, pad=None)
    if point.role is not None and any(each.role == point.role for each in there):
        given_up.append(f"the {point.role} point")
        point = replace(point, role=None, label=point.label or f"other {point.role}")
    return point


def _with_more(same: Cue, moved: Cue, there: Sequence[Cue], given_up: list[str]) -> Cue:
    """A cue with what the same one of the copy says beside it, where that is free."""
    others = [each for each in there if each is not same]
    free = _without_taken(
        replace(
            moved,
            pad=moved.pad if same.pad is None else None,
            role=moved.role if same.role is None else None,
        ),
        others,
        given_up,
    )
    if same.label and moved.label and same.label != moved.label:
        given_up.append(f"the label “{moved.label}”")
    return replace(
        same,
        label=same.label or moved.label,
        pad=same.pad if same.pad is not None else free.pad,
        role=same.role if same.role is not None else free.role,
        engages=same.engages or moved.engages,
    )
