"""Arrivals: folders to choose from, imports, and what became of each file."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse

from vinyl.api.convert import import_out
from vinyl.api.models.arrivals import (
    AgainIn,
    DroppedIn,
    DroppedOut,
    FileOut,
    FolderListing,
    FolderOut,
    ImportedFileOut,
    ImportIn,
    ImportOut,
    OfferedFolder,
    WatchedIn,
    WatchedList,
    WatchedOut,
)
from vinyl.api.services import Use
from vinyl.exchange.lists import LIST_SUFFIXES
from vinyl.jobs import demo_making
from vinyl.jobs.importing import KIND, window_of
from vinyl.library import imports, jobs, twin_facts, watched
from vinyl.library.imports import Outcome
from vinyl.library.jobs import Job
from vinyl.media.dropped import Dropped, find_dropped, usual_folders
from vinyl.media.files import count_audio, list_files, list_folders
from vinyl.media.probe import AUDIO_SUFFIXES
from vinyl.operations import arrivals
from vinyl.operations.services import Services

router = APIRouter(prefix="/api", tags=["arrivals"])

MOST_LISTED = 20
MOST_LISTED_FILES = 1000


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
        files=_files_in(folder),
        roots=[str(root) for root in use.roots.roots],
    )


def _files_in(folder: Path) -> list[FileOut]:
    """Playlists and audio files that can be chosen one by one, playlists first."""
    playlists = list_files(folder, LIST_SUFFIXES, MOST_LISTED_FILES)
    audio = list_files(folder, AUDIO_SUFFIXES, MOST_LISTED_FILES)
    return [
        *(FileOut(name=path.name, path=str(path), kind="playlist") for path in playlists),
        *(FileOut(name=path.name, path=str(path), kind="audio") for path in audio),
    ]


@router.get("/offered")
def offered_folders(use: Use) -> list[OfferedFolder]:
    """Folders that Vinyl proposes to import."""
    known = jobs.list_jobs(use.database.read(), (KIND, demo_making.KIND), 1000)
    subjects = {job.subject for job in known}
    # The demo music comes in by itself, unless that was stopped.
    comes = any(job.kind == demo_making.KIND and job.state != "cancelled" for job in known)
    return [
        OfferedFolder(path=str(path), imported=comes or str(path) in subjects)
        for path in use.settings.offered
    ]


@router.post("/imports", status_code=201)
def start_import(use: Use, wanted: ImportIn) -> ImportOut:
    """Import files and folders in the background."""
    window = (wanted.window.low, wanted.window.high) if wanted.window else None
    return _out(use, arrivals.begin_import(use, [Path(path) for path in wanted.paths], window))


@router.post("/dropped")
def look_up_dropped(use: Use, wanted: DroppedIn) -> DroppedOut:
    """Find files that were dropped into the window, where music usually comes from; nothing is imported."""
    files = [Dropped(each.name, each.size_bytes) for each in wanted.files]
    read = use.database.read()
    known = [*watched.get_folders(read), *imports.folders_of_tracks(read)]
    folders = [Path(folder) for folder in known if Path(folder).is_dir()]
    home = [root for root in usual_folders(Path.home()) if use.roots.is_allowed(root)]
    found = find_dropped(files, [*home, *(folder for folder in folders if use.roots.is_allowed(folder))])
    paths = sorted({path for alike in found.values() for path in alike[:1]})
    return DroppedOut(
        audio=[path for path in paths if Path(path).suffix.lower() in AUDIO_SUFFIXES],
        playlists=[path for path in paths if Path(path).suffix.lower() in LIST_SUFFIXES],
        missing=[each.name for each in files if each not in found],
    )


@router.post("/imports/{job_id}/again", status_code=201)
def try_again(use: Use, job_id: int, wanted: AgainIn) -> ImportOut:
    """Import files of an earlier import once more: all of an outcome, or single ones."""
    window = window_of(use.runner.get(job_id))
    return _out(use, arrivals.import_again(use, job_id, wanted.outcome, wanted.paths, window))


@router.get("/imports/{job_id}/report", response_class=PlainTextResponse)
def report_text(
    use: Use,
    job_id: int,
    outcome: Outcome | None = None,
) -> str:
    """What became of each file as text, a line a file, for keeping elsewhere."""
    use.runner.get(job_id)
    files = imports.list_files(use.database.read(), job_id, outcome, 0, -1)
    return "".join(f"{file.outcome}\t{file.path}\t{file.reason}\n" for file in files)


@router.get("/watched")
def list_watched(use: Use) -> WatchedList:
    """The folders that are watched for new music."""
    folders = watched.get_folders(use.database.read())
    return WatchedList(
        folders=[WatchedOut(path=path, there=Path(path).is_dir()) for path in folders],
        problem=use.watcher.problem,
    )


@router.put("/watched")
def set_watched(use: Use, wanted: WatchedIn) -> WatchedList:
    """Watch these folders and no others; one that is away stays if it was watched before."""
    arrivals.set_watched(use, wanted.folders)
    return list_watched(use)


@router.get("/imports")
def list_imports(use: Use) -> list[ImportOut]:
    """The newest imports."""
    newest = sorted(
        jobs.list_jobs(use.database.read(), (KIND, demo_making.KIND), MOST_LISTED), key=lambda job: -job.id
    )
    return [_out(use, use.runner.get(job.id)) for job in newest]


@router.get("/imports/{job_id}/files")
def imported_files(
    use: Use,
    job_id: int,
    outcome: Outcome | None = None,
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> list[ImportedFileOut]:
    """What became of each file, those that need attention first."""
    read = use.database.read()
    files = imports.list_files(read, job_id, outcome, offset, limit)
    twins = twin_facts.better_of_twins(read, [file.track_id for file in files if file.track_id is not None])
    return [
        ImportedFileOut(**asdict(file), twin=twins.get(file.track_id) if file.track_id else None)
        for file in files
    ]


def _out(use: Services, job: Job) -> ImportOut:
    return import_out(job, imports.outcomes_of(use.database.read(), job.id))
