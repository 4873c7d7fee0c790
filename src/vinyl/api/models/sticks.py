"""Sticks, their plan, and how packing went."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.logbook import NightTakenOut
from vinyl.api.models.shared import Id, Model, Words


class StickIn(Model):
    name: Annotated[Words, Field(min_length=1, max_length=40)]
    capacity_mb: Annotated[int, Field(ge=1, le=1_000_000)]
    profile: str = "Quay One"


class ProfileOut(Model):
    name: str
    description: str
    pads: int


class PackResult(Model):
    """How a stick was packed last; ``failures`` counts the files that could not go."""

    job_id: int
    failures: int
    state: Literal["waiting", "running", "paused", "done", "cancelled", "failed"]
    error: str | None
    tracks: int | None
    written: int | None
    removed: int | None
    finished_at: str | None


class StickOut(Model):
    id: int
    name: str
    folder: str
    profile: ProfileOut
    is_in: bool
    capacity_bytes: int
    used_bytes: int
    crate_ids: list[int]
    last_run: PackResult | None
    # Plays that were new when it was put in just now.
    plays_taken: int = 0
    nights: Annotated[list[NightTakenOut], Field(default_factory=list)]


class StickCrates(Model):
    crate_ids: Annotated[list[Id], Field(max_length=10_000)]


class PlannedTrackOut(Model):
    file: str
    title: str
    artist: str
    action: Literal["copy", "convert", "keep", "update"]
    size_bytes: int


class PlanOut(Model):
    tracks: list[PlannedTrackOut]
    crates: list[str]
    removed: list[str]
    left_out: list[str]
    write_bytes: int
    removed_bytes: int
    free_bytes: int
    capacity_bytes: int
    missing_bytes: int
