"""Crates and what is put into them."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.logbook import WarningOut
from vinyl.api.models.shared import Id, Model, Name, PlaceNames, Words
from vinyl.api.models.tracks import Chosen


class CrateName(Model):
    id: int
    name: str


class CrateOut(Model):
    id: int
    name: str
    tracks: int
    duration_s: float
    wanted: int
    fills_itself: bool
    is_folder: bool
    folder_id: int | None
    colour: str
    sign: str
    note: str
    divided_by: str
    repeats: bool
    series: str | None


class CrateIn(Model):
    name: Name
    folder_id: Id | None = None
    is_folder: bool = False


class IntoFolder(Model):
    """Where a crate goes: into a folder or, with None, out of all; before another there, or behind all."""

    folder_id: Id | None
    before_id: Id | None = None


class CrateChange(Model):
    name: Name | None = None
    repeats: bool | None = None
    position: Annotated[int, Field(ge=0)] | None = None


class PlacesOut(Model):
    """The tracks of a list by hand in its order: a track's id, or for a further place of one, minus its own;
    which tracks stand at such further places, and what is noted on places.
    """

    places: list[int]
    repeated: dict[int, int]
    notes: dict[int, str]


class NoteIn(Model):
    places: PlaceNames
    note: Words = ""


class CrateTracks(Model):
    """``behind`` puts them after the track before ``at``, where a divider stands between both."""

    places: PlaceNames
    at: Annotated[int, Field(ge=0)] | None = None
    behind: bool = False


class IntoCrate(Chosen):
    """With ``out_of``, the tracks leave that crate, or just some of its ``places``."""

    at: Annotated[int, Field(ge=0)] | None = None
    out_of: Id | None = None
    places: PlaceNames | None = None


class Added(Model):
    """How many went in, and which of them shall not be played (there) again."""

    added: int
    already_in: int
    warnings: Annotated[list[WarningOut], Field(default_factory=list)]
