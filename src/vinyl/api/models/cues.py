"""Cues and loops, and the colours they have."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.shared import Model, Pad, Snap, Words
from vinyl.core.cues.bounds import LONGEST_LABEL, Colour, Role


class CueOut(Model):
    id: int
    position_s: float
    length_s: float | None
    label: str
    role: Role | None
    colour: Colour
    pad: int | None
    engages: bool


class ProposalOut(Model):
    """A cue that analysis proposes and that no cue answers yet."""

    position_s: float
    role: Role | None
    label: str
    length_s: float | None
    from_file: bool


class CueIn(Model):
    position_s: Annotated[float, Field(allow_inf_nan=False, ge=0, le=200_000)]
    snap: Snap = "beat"
    length_beats: Annotated[float, Field(allow_inf_nan=False, gt=0, le=4096)] | None = None
    length_s: Annotated[float, Field(allow_inf_nan=False, gt=0, le=200_000)] | None = None
    label: Annotated[Words, Field(max_length=LONGEST_LABEL)] = ""
    role: Role | None = None
    colour: Colour | None = None
    pad: Pad | None = None
    engages: bool = False


class CueChange(Model):
    """Only what is given changes; ``length_beats`` null makes a loop a point."""

    position_s: Annotated[float, Field(allow_inf_nan=False, ge=0, le=200_000)] | None = None
    move_ms: Annotated[float, Field(allow_inf_nan=False, ge=-60_000, le=60_000)] | None = None
    move_beats: Annotated[float, Field(allow_inf_nan=False, ge=-4096, le=4096)] | None = None
    snap: Snap = "beat"
    length_beats: Annotated[float, Field(allow_inf_nan=False, gt=0, le=4096)] | None = None
    label: Annotated[Words, Field(max_length=LONGEST_LABEL)] | None = None
    role: Role | None = None
    colour: Colour | None = None
    pad: Pad | None = None
    engages: bool | None = None


class CuesIn(Model):
    """Several cues in one step."""

    cues: Annotated[list[CueIn], Field(min_length=1, max_length=64)]


class OntoGridIn(Model):
    """Without ``apply`` only what would happen is told. Without ``cue_ids`` all cues are meant."""

    snap: Snap = "beat"
    cue_ids: Annotated[list[int], Field(max_length=1000)] | None = None
    apply: bool = False


class MovedCue(Model):
    cue_id: int
    label: str
    from_s: float
    to_s: float
    by_ms: float


class CueColourBody(Model):
    """What a colour means: its name, a letter or two that stand for it, and a shade of its own, if any."""

    colour: Colour
    name: Annotated[Words, Field(max_length=40)]
    sign: Annotated[Words, Field(max_length=2)]
    hex: Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")] | None = None
