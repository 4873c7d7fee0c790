"""Routes through a track."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.shared import Model, Seconds, Words


class JumpBody(Model):
    from_s: Seconds
    to_s: Seconds


class RouteIn(Model):
    name: Annotated[Words, Field(min_length=1, max_length=80)]
    jumps: Annotated[list[JumpBody], Field(min_length=1, max_length=64)]


class StretchOut(Model):
    start_s: float
    end_s: float


class RouteOut(Model):
    """A shortened or re-ordered way through a track; ``stretches`` is what is played, in order."""

    id: int
    name: str
    jumps: list[JumpBody]
    stretches: list[StretchOut]
    length_s: float


class ExportIn(Model):
    """The form in which a route is written as a new file."""

    form: Literal["flac", "wav", "aiff", "mp3", "m4a"] = "flac"
