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


class CrateIn(Model):
    name: Name
    folder_id: Id | None = None
    is_folder: bool = False


class IntoFolder(Model):
    """Where a crate goes; None is out of all folders."""

    folder_id: Id | None


class CrateChange(Model):
    name: Name | None = None
    position: Annotated[int, Field(ge=0)] | None = None


class CrateTracks(Model):
    ids: Ids
    at: Annotated[int, Field(ge=0)] | None = None


class IntoCrate(Chosen):
    at: Annotated[int, Field(ge=0)] | None = None


class Added(Model):
    added: int
    already_in: int
