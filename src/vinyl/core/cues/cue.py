"""A cue of a track: a point, or a loop."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Cue:
    """A point, or a loop where ``length_s`` is given; see docs/formats/stick.md for each field's meaning.
    ``id`` is 0 for one that is not kept yet.
    """

    position_s: float
    length_s: float | None = None
    label: str = ""
    role: str | None = None
    colour: str = "vermilion"
    pad: int | None = None
    engages: bool = False
    id: int = 0
