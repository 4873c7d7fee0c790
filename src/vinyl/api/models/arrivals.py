"""What Arrivals sends and is sent: folders, imports and what became of each file."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.analysis import WindowBody
from vinyl.api.models.shared import Model
from vinyl.library.imports import Outcome


class FolderOut(Model):
    name: str
    path: str


class FileOut(Model):
    name: str
    path: str
    kind: Literal["audio", "playlist"]


class FolderListing(Model):
    path: str
    parent: str | None
    audio_files: int
    folders: list[FolderOut]
    files: list[FileOut]
    roots: list[str]


class OfferedFolder(Model):
    path: str
    imported: bool


PathText = Annotated[str, Field(min_length=1, max_length=4096)]


class ImportIn(Model):
    """Files and folders to import."""

    paths: Annotated[list[PathText], Field(min_length=1, max_length=10_000)]
    window: WindowBody | None = None


class DroppedBody(Model):
    name: Annotated[str, Field(min_length=1, max_length=255)]
    size_bytes: Annotated[int, Field(ge=0)]


class DroppedIn(Model):
    """Files that were dropped into the window, as the browser tells of them."""

    files: Annotated[list[DroppedBody], Field(min_length=1, max_length=10_000)]


class DroppedOut(Model):
    """Where they lie: audio files and playlists, and the names of those that were not found."""

    audio: list[str]
    playlists: list[str]
    missing: list[str]


class AgainIn(Model):
    """Which files of an import to try again: all of an outcome, or these."""

    outcome: Outcome | None = None
    paths: Annotated[list[PathText], Field(max_length=10_000, default_factory=list)]


class WatchedIn(Model):
    folders: Annotated[list[PathText], Field(max_length=100)]


class WatchedOut(Model):
    """A watched folder; ``there`` is False while its drive is away."""

    path: str
    there: bool


class WatchedList(Model):
    folders: list[WatchedOut]
    problem: str


class Outcomes(Model):
    added: int
    changed: int
    already_here: int
    moved: int
    wanted: int
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
    outcome: Outcome
    reason: str
    track_id: int | None
    # What is said of a twin that was there before.
    twin: str | None = None
