"""Playlist files: how they are to be understood, what they would bring, and what is wanted in crates."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.arrivals import ImportOut, PathText
from vinyl.api.models.shared import Id, Model, Name
from vinyl.jobs.resolving import State

Column = Annotated[int, Field(ge=0, lt=200)] | None


class MappingBody(Model):
    """A beginning of foreign paths, and what it is here."""

    there: Annotated[str, Field(max_length=4096)]
    here: PathText


class ColumnsBody(Model):
    """Which column of a table holds what, from 0."""

    path: Column = None
    artist: Column = None
    title: Column = None
    played: Column = None


class LookIn(Model):
    path: PathText
    mappings: Annotated[list[MappingBody], Field(max_length=50, default_factory=list)]
    by_names: bool = True
    columns: ColumnsBody | None = None


class MappingOut(Model):
    """A mapping that was found, with how many of the missing entries it finds."""

    there: str
    here: str
    finds: int


class EntryOut(Model):
    artist: str
    title: str
    path: str
    state: State
    track_id: int | None
    file: str | None
    reason: str


class StateCounts(Model):
    here: int
    by_name: int
    on_disk: int
    wanted: int


class TableOut(Model):
    """A table's head and first rows, for choosing its columns."""

    head: list[str]
    rows: list[list[str]]
    columns: ColumnsBody


class LookOut(Model):
    """What a playlist would bring. ``marks`` counts those of a cue sheet; ``entries`` are the first, what is
    missing before all else.
    """

    name: str
    encoding: str
    total: int
    passed_over: int
    marks: int
    counts: StateCounts
    entries: list[EntryOut]
    proposals: list[MappingOut]
    table: TableOut | None


class BringIn(LookIn):
    name: Name


class BroughtOut(Model):
    """The crate that was made, if one was, and the import of what lies on the disk."""

    crate_id: int | None
    run: ImportOut


class WantedOut(Model):
    """An entry that is wanted in a crate, the ``number``-th of its places, after the track of that title."""

    id: int
    artist: str
    title: str
    path: str
    came_from: str
    number: int
    after: str | None


class WantedIds(Model):
    ids: Annotated[list[Id], Field(min_length=1, max_length=100_000)]
