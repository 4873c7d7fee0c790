"""What goes over the wire about tracks that are taken off the Shelf."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.shared import Id, Model
from vinyl.api.models.tracks import Chosen


class TakeOffIn(Chosen):
    """Tracks that are to go from the Shelf, and whether their files are to be put aside."""

    aside: bool = False


class OffShelfIn(Model):
    """Tracks that are off the Shelf, by their ids, and copies of tracks' files, by their paths."""

    track_ids: Annotated[list[Id], Field(max_length=200_000)] = Field(default_factory=list)
    copies: Annotated[list[str], Field(max_length=200_000)] = Field(default_factory=list)


class HowManyOut(Model):
    tracks: int


class ThrownAwayOut(Model):
    """What became of files that were thrown away."""

    freed_bytes: int
    problems: list[str]


class OffShelfOut(Model):
    """A track that is off the Shelf, or a copy of a track's file; ``kept`` is where the file lies aside."""

    track_id: int
    artist: str
    title: str
    path: str
    size_bytes: int
    kept: str | None
    taken_at: str
    why: str
    is_copy: bool


class HasTracksOut(Model):
    """A list or a stick, and how many of the tracks it has."""

    name: str
    tracks: int


class WhatGoesOut(Model):
    """What taking tracks off the Shelf would change, and what stays."""

    tracks: int
    size_bytes: int
    away: int
    copies: int
    plays: int
    lists: list[HasTracksOut]
    sticks: list[HasTracksOut]
