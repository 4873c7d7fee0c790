"""Arrivals: folders to choose from, imports, and all background work."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Query

from vinyl.api import models
from vinyl.api.convert import import_out
from vinyl.api.services import Services, Use
from vinyl.library import imports
from vinyl.media.files import count_audio, list_folders
from vinyl.sticks import store

router = APIRouter(prefix="/api", tags=["arrivals"])


@router.get("/folders")
def browse_folder(
    use: Use, path: Annotated[str | None, Query(max_length=4096)] = None
) -> models.FolderListing:
    """The folders in a folder below one of the allowed roots; without a path, in the first root."""
    folder = use.roots.check_folder(Path(path) if path else use.roots.roots[0])
    parent = folder.parent if folder not in use.roots.roots else None
    return models.FolderListing(
        path=str(folder),
        parent=str(parent) if parent else None,
        audio_files=count_audio(folder),
        folders=[models.FolderOut(name=entry.name, path=str(entry.path)) for entry in list_folders(folder)],
        roots=[str(root) for root in use.roots.roots],
    )


@router.get("/offered")
def offered_folders(use: Use) -> list[models.OfferedFolder]:
    """Folders that Vinyl proposes to import."""
    known = {run.folder for run in imports.list_runs(use.database.read(), 1000)}
    return [
        models.OfferedFolder(path=str(path), imported=str(path) in known) for path in use.settings.offered
    ]


@router.post("/imports", status_code=201)
def start_import(use: Use, wanted: models.ImportIn) -> models.ImportOut:
    """Import a folder in the background."""
    run_id = use.importer.add(use.roots.check_folder(Path(wanted.folder)))
    return import_out(imports.get_run(use.database.read(), run_id))


@router.get("/imports")
def list_imports(use: Use) -> list[models.ImportOut]:
    """The newest imports."""
    return [import_out(run) for run in imports.list_runs(use.database.read())]


@router.get("/imports/{run_id}/files")
def imported_files(
    use: Use,
    run_id: int,
    outcome: Literal["added", "already here", "not audio", "broken"] | None = None,
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> list[models.ImportedFileOut]:
    """What became of each file, those that need attention first."""
    files = imports.list_files(use.database.read(), run_id, outcome, offset, limit)
    return [models.ImportedFileOut.model_validate(file) for file in files]


@router.post("/imports/{run_id}/cancel")
def cancel_import(use: Use, run_id: int) -> models.ImportOut:
    """Stop an import; what it added stays."""
    imports.get_run(use.database.read(), run_id)
    use.importer.cancel(run_id)
    return import_out(imports.get_run(use.database.read(), run_id))


@router.get("/work")
def get_work(use: Use) -> models.Work:
    """All that goes on in the background."""
    running = [run for run in imports.list_runs(use.database.read()) if run.state == "running"]
    return models.Work(
        imports=[import_out(run) for run in running], analysis=_analysis(use), packing=_packing(use)
    )


@router.post("/analysis/pause")
def pause_analysis(use: Use) -> models.AnalysisWork:
    """Take waiting tracks out of turn."""
    use.analyser.pause()
    return _analysis(use)


@router.post("/analysis/resume")
def resume_analysis(use: Use) -> models.AnalysisWork:
    """Go on with paused tracks and try failed ones again."""
    use.analyser.resume()
    return _analysis(use)


def _analysis(use: Services) -> models.AnalysisWork:
    progress = use.analyser.progress()
    counts = progress.counts
    return models.AnalysisWork(
        waiting=counts.waiting,
        paused=counts.paused,
        failed=counts.failed,
        in_hand=progress.in_hand,
        done=progress.done,
        seconds_left=progress.seconds_left,
    )


def _packing(use: Services) -> list[models.PackWork]:
    found = []
    for stick in store.list_sticks(use.database.read()):
        running = use.packer.running(stick.id)
        if running:
            p = running.progress
            found.append(
                models.PackWork(
                    stick_id=stick.id,
                    stick=stick.name,
                    done_bytes=p.done_bytes,
                    total_bytes=p.total_bytes,
                    done_files=p.done_files,
                    total_files=p.total_files,
                    current=p.current,
                    seconds_left=running.seconds_left,
                )
            )
    return found
