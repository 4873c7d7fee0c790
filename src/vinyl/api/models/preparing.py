"""Cue templates, and when a track counts as prepared."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.jobs import JobOut
from vinyl.api.models.shared import Model, Pad, Words
from vinyl.api.models.tracks import Chosen
from vinyl.core.cues.bounds import Colour, Role


class FinishRulesBody(Model):
    """When a track counts as prepared."""

    grid: Literal["sure", "by hand or locked", "locked", "any"] = "sure"
    key: bool = True
    cues: Annotated[int, Field(ge=0, le=32)] = 1
    roles: Annotated[list[Role], Field(default_factory=list)]
    stars: bool = False


class TemplateCueBody(Model):
    """A cue so many beats after each place of a kind; a loop where ``length_beats`` is given."""

    place: Literal["in", "main", "out", "break", "drop"]
    offset_beats: Annotated[float, Field(allow_inf_nan=False, ge=-4096, le=4096)] = 0.0
    length_beats: Annotated[float, Field(allow_inf_nan=False, gt=0, le=4096)] | None = None
    label: Annotated[Words, Field(max_length=80)] = ""
    role: Role | None = None
    colour: Colour = "blue"
    pad: Pad | None = None
    engages: bool = False


class TemplateIn(Model):
    name: Annotated[Words, Field(min_length=1, max_length=80)]
    cues: Annotated[list[TemplateCueBody], Field(min_length=1, max_length=32)]


class TemplateOut(TemplateIn):
    id: int


class TemplateUse(Chosen):
    """The tracks that a template is to be used on."""


class WantedCueOut(Model):
    position_s: float
    length_s: float | None
    label: str
    role: Role | None
    colour: Colour
    pad: int | None
    engages: bool
    there: bool


class TemplateResultOut(Model):
    track_id: int
    title: str
    wanted: list[WantedCueOut]
    hindrance: str
    made: list[int]


class TemplatePreview(Model):
    """What a template would add to the first tracks, and how many more tracks there are."""

    results: list[TemplateResultOut]
    more: int


class TemplateUsed(Model):
    """How many cues a template has set on how many tracks, and on how many it could do nothing; or the job
    that does it.
    """

    cues: int
    tracks: int
    hindered: int
    job: JobOut | None
