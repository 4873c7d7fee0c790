"""Which cues get a place in a library that has few, and which number."""

from __future__ import annotations

from collections.abc import Sequence

from vinyl.core.carrying.collection import Cue
from vinyl.core.carrying.options import Numbers, PlacesBy

_RANK = {"in": 0, "main": 1, "out": 2}


def choose(cues: Sequence[Cue], places: int | None, by: PlacesBy) -> tuple[list[Cue], list[Cue]]:
    """Cues that get one of some places, and those that do not, both in order of time."""
    ranked = sorted(cues, key=lambda cue: _rank(cue, by))
    kept = ranked if places is None else ranked[:places]
    left = [] if places is None else ranked[places:]
    return sorted(kept, key=_time), sorted(left, key=_time)


def number(cues: Sequence[Cue], places: int, numbers: Numbers) -> list[int]:
    """The number of each cue, from 1: its pad where that can be, else the lowest that is free, in order.

    Args:
        cues: in order of time, no more than there are places.
    """
    taken: dict[int, int] = {}
    for at, cue in enumerate(cues):
        if numbers == "pads" and cue.pad is not None and cue.pad <= places:
            taken.setdefault(cue.pad, at)
    given = {at: pad for pad, at in taken.items()}
    free = (place for place in range(1, places + 1) if place not in taken)
    return [given[at] if at in given else next(free) for at in range(len(cues))]


def _rank(cue: Cue, by: PlacesBy) -> tuple[int, int, float, float]:
    role = _RANK.get(cue.role or "", 9)
    pad = cue.pad or 99
    at, length = _time(cue)
    if by == "time":
        return 0, 0, at, length
    if by == "roles":
        return role, pad, at, length
    return pad, role, at, length


def _time(cue: Cue) -> tuple[float, float]:
    return cue.position_s, cue.length_s or 0.0
