"""What Arrivals sends and is sent: folders, imports and what became of each file."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.shared import Model


class FolderOut(Model):
    name: str
    path: str


class FolderListing(Model):
    path: str
    parent: str | None
    audio_files: int
    folders: list[FolderOut]
    roots: list[str]


class OfferedFolder(Model):
    path: str
    imported: bool


class ImportIn(Model):
    folder: Annotated[str, Field(min_length=1, max_length=4096)]


class Outcomes(Model):
    added: int
    changed: int
    already_here: int
    not_audio: int
    broken: int


class ImportOut(Model):
    id: int
    folder: str
    state: Literal["waiting", "running", "paused", "done", "cancelled", "failed"]
    total: int | None
    done: int
    error: str | None
    started_at: str
    finished_at: str | None
    seconds_left: float | None
    outcomes: Outcomes


class ImportedFileOut(Model):
    path: str
    outcome: Literal["added", "changed", "already here", "not audio", "broken"]
    reason: str
    track_id: int | None
