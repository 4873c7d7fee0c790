"""Arrivals: folders to choose from, imports, and what became of each file."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Query

from vinyl.api.convert import import_out
from vinyl.api.models.arrivals import (
    FolderListing,
    FolderOut,
    ImportedFileOut,
    ImportIn,
    ImportOut,
    OfferedFolder,
)
from vinyl.api.services import Services, Use
from vinyl.jobs.importing import KIND
from vinyl.library import imports, jobs
from vinyl.library.jobs import Job
from vinyl.media.files import count_audio, list_folders

router = APIRouter(prefix="/api", tags=["arrivals"])

MOST_LISTED = 20


@router.get("/folders")
def browse_folder(use: Use, path: Annotated[str | None, Query(max_length=4096)] = None) -> FolderListing:
    """The folders in a folder below one of the allowed roots; without a path, in the first root."""
    folder = use.roots.check_folder(Path(path) if path else use.roots.roots[0])
    parent = folder.parent if folder not in use.roots.roots else None
    return FolderListing(
        path=str(folder),
        parent=str(parent) if parent else None,
        audio_files=count_audio(folder),
        folders=[FolderOut(name=entry.name, path=str(entry.path)) for entry in list_folders(folder)],
        roots=[str(root) for root in use.roots.roots],
    )


@router.get("/offered")
def offered_folders(use: Use) -> list[OfferedFolder]:
    """Folders that Vinyl proposes to import."""
    known = {job.subject for job in jobs.list_jobs(use.database.read(), (KIND,), 1000)}
    return [OfferedFolder(path=str(path), imported=str(path) in known) for path in use.settings.offered]


@router.post("/imports", status_code=201)
def start_import(use: Use, wanted: ImportIn) -> ImportOut:
    """Import a folder in the background."""
    job = use.importer.add(use.roots.check_folder(Path(wanted.folder)))
    use.changed("imports")
    return _out(use, job)


@router.get("/imports")
def list_imports(use: Use) -> list[ImportOut]:
    """The newest imports."""
    newest = sorted(jobs.list_jobs(use.database.read(), (KIND,), MOST_LISTED), key=lambda job: -job.id)
    return [_out(use, use.runner.get(job.id)) for job in newest]


@router.get("/imports/{job_id}/files")
def imported_files(
    use: Use,
    job_id: int,
    outcome: Literal["added", "changed", "already here", "not audio", "broken"] | None = None,
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> list[ImportedFileOut]:
    """What became of each file, those that need attention first."""
    files = imports.list_files(use.database.read(), job_id, outcome, offset, limit)
    return [ImportedFileOut.model_validate(file) for file in files]


def _out(use: Services, job: Job) -> ImportOut:
    return import_out(job, imports.outcomes_of(use.database.read(), job.id))
