"""Edits of a beatgrid, each named by what it does."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.shared import Bpm, Id, Model, Seconds, TempoKind
from vinyl.core.rhythm.stepping import TempoReach


class Shift(Model):
    edit: Literal["shift"]
    by_s: Annotated[float, Field(allow_inf_nan=False, ge=-60, le=60)]


class BarStartsHere(Model):
    edit: Literal["bar starts here"]
    time_s: Seconds


class FirstBarHere(Model):
    edit: Literal["first bar here"]
    time_s: Seconds


class MoveBeatHere(Model):
    edit: Literal["move beat here"]
    time_s: Seconds


class MoveBarStarts(Model):
    edit: Literal["move bar starts"]
    beats: Annotated[int, Field(ge=-64, le=64)]


class SnapHere(Model):
    """Shift the grid so that the line nearest to a time falls on the attack nearest to it."""

    edit: Literal["snap to attack"]
    time_s: Seconds


class Halve(Model):
    edit: Literal["halve"]


class Double(Model):
    edit: Literal["double"]


class ThreeForTwo(Model):
    edit: Literal["three for two"]


class TwoForThree(Model):
    edit: Literal["two for three"]


class Stretch(Model):
    """Without ``to_s``, the line is stretched to the attack nearest to it."""

    edit: Literal["stretch"]
    hold_s: Seconds
    line_s: Seconds
    to_s: Seconds | None = None


class AddAnchor(Model):
    edit: Literal["add anchor"]
    time_s: Seconds


class MoveAnchor(Model):
    edit: Literal["move anchor"]
    time_s: Seconds
    to_s: Seconds


class PinBeat(Model):
    """Make a line an anchor and move it; without ``to_s`` to the attack nearest to it."""

    edit: Literal["pin beat"]
    time_s: Seconds
    to_s: Seconds | None = None


class DeleteAnchor(Model):
    edit: Literal["delete anchor"]
    time_s: Seconds


class JoinAnchors(Model):
    edit: Literal["join anchors"]
    start_s: Seconds
    end_s: Seconds


class PartTempo(Model):
    edit: Literal["tempo of this part"]
    time_s: Seconds
    bpm: Bpm


class TakeFrom(Model):
    """The tempo of another track, held at a time; or its whole map, held at bar 1."""

    edit: Literal["take from another track"]
    track_id: Id
    what: Literal["tempo", "map"]
    hold_s: Seconds | None = None


class SetTempo(Model):
    edit: Literal["set tempo"]
    bpm: Bpm
    hold_s: Seconds | None = None


class TempoFromHere(Model):
    edit: Literal["tempo from here"]
    time_s: Seconds
    bpm: Bpm


class StepToOtherEnd(Model):
    """The nearest step of the tempo to the other end of the break without drums that it lies at."""

    edit: Literal["step to other end"]
    time_s: Seconds


class StepTempo(Model):
    """The tempo a little higher or lower: of the whole track from bar 1, from a time on, or of the part
    between two anchors.
    """

    edit: Literal["step tempo"]
    by_bpm: Annotated[float, Field(allow_inf_nan=False, ge=-10, le=10)]
    reach: TempoReach
    time_s: Seconds


class SetMetre(Model):
    edit: Literal["beats in a bar"]
    beats_per_bar: Annotated[int, Field(ge=3, le=7)]


GridEdit = Annotated[
    Shift
    | BarStartsHere
    | FirstBarHere
    | MoveBarStarts
    | MoveBeatHere
    | SnapHere
    | Halve
    | Double
    | ThreeForTwo
    | TwoForThree
    | SetTempo
    | TempoFromHere
    | PartTempo
    | StepTempo
    | StepToOtherEnd
    | Stretch
    | AddAnchor
    | MoveAnchor
    | PinBeat
    | DeleteAnchor
    | JoinAnchors
    | TakeFrom
    | SetMetre,
    Field(discriminator="edit"),
]


class RescanIn(Model):
    """Hear the rhythm anew as one kind, of the whole track or of a stretch of it."""

    kind: TempoKind
    start_s: Seconds | None = None
    end_s: Seconds | None = None
