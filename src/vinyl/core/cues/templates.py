"""Templates of the user's own: which cues a track gets, counted from what is there already."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from vinyl.core.cues.bounds import Role
from vinyl.core.cues.proposals import CueProposal
from vinyl.core.rhythm.tempo_map import TempoMap

SAME_PLACE_BEATS = 0.5

Place = Literal["in", "main", "out", "break", "drop"]


@dataclass(frozen=True, slots=True)
class TemplateCue:
    """A cue so many beats after (or before, if negative) each place of a kind; a loop where ``length_beats``
    is given.
    """

    place: Place
    offset_beats: float = 0.0
    length_beats: float | None = None
    label: str = ""
    role: Role | None = None
    colour: str = "blue"
    pad: int | None = None
    engages: bool = False


@dataclass(frozen=True, slots=True)
class WantedCue:
    """What a template asks for in one track; ``there`` if a cue stands there already."""

    position_s: float
    length_s: float | None
    label: str
    role: Role | None
    colour: str
    pad: int | None
    engages: bool
    there: bool


def apply_template(
    template: Iterable[TemplateCue],
    places: Iterable[CueProposal],
    cues_s: Iterable[float],
    tempo_map: TempoMap,
    duration_s: float,
) -> list[WantedCue]:
    """What a template makes of a track, in order of time.

    Args:
        places: the cues with a role, and proposals for those that the user has not set.
        cues_s: positions of the cues that are there; where one stands, none is added.

    What would lie outside the track is left out. A pad, and a role, go to the first place only.
    """
    found, taken = list(places), [float(tempo_map.beat_at(time_s)) for time_s in cues_s]
    wanted: list[WantedCue] = []
    for cue in template:
        for number, place in enumerate(p for p in found if cue.place in (p.role, p.label)):
            made = _make(
                cue, float(tempo_map.beat_at(place.time_s)), number == 0, tempo_map, duration_s, taken
            )
            if made is not None:
                wanted.append(made)
    return sorted(wanted, key=lambda cue: cue.position_s)


def _make(
    cue: TemplateCue, beat: float, first: bool, tempo_map: TempoMap, duration_s: float, taken: list[float]
) -> WantedCue | None:
    start_beat = beat + cue.offset_beats
    start = float(tempo_map.time_at(start_beat))
    length = (
        None if cue.length_beats is None else float(tempo_map.time_at(start_beat + cue.length_beats)) - start
    )
    if start < -1e-6 or start + (length or 0.0) > duration_s:
        return None
    there = any(abs(start_beat - other) < SAME_PLACE_BEATS for other in taken)
    role, pad = (cue.role, cue.pad) if first else (None, None)
    return WantedCue(max(start, 0.0), length, cue.label, role, cue.colour, pad, cue.engages, there)
