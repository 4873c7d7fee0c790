"""Crates and what is put into them."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.shared import Id, Ids, Model, Name
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
    position: Annotated[int, Field(ge=0)] | None = None


class CrateTracks(Model):
    """``behind`` puts them after the track before ``at``, where a divider stands between both."""

    ids: Ids
    at: Annotated[int, Field(ge=0)] | None = None
    behind: bool = False


class IntoCrate(Chosen):
    """With ``out_of``, the tracks leave that crate."""

    at: Annotated[int, Field(ge=0)] | None = None
    out_of: Id | None = None


class Added(Model):
    added: int
    already_in: int
