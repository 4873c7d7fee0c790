"""Exchange, the way back: looking at another library, reviewing what is different, and taking it in."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Query

from vinyl.api.convert import job_out
from vinyl.api.exchange_out import review_out
from vinyl.api.models.arrivals import FolderOut
from vinyl.api.models.exchange import (
    CameOut,
    ChooseIn,
    LibraryFound,
    LibraryLookIn,
    LibraryPlaces,
    ReviewOut,
    ReviewPage,
    ReviewRow,
    TakeIn,
)
from vinyl.api.models.jobs import JobOut
from vinyl.api.services import Use
from vinyl.core.carrying.traits import SOURCES
from vinyl.core.foreign_paths import PathMapping
from vinyl.exchange.review import came_of, rows_of
from vinyl.jobs.coming import Looking
from vinyl.jobs.stick_library import source_of
from vinyl.media.files import list_folders
from vinyl.operations import exchange

router = APIRouter(prefix="/api/exchange", tags=["exchange"])

MOST_CAME = 500


@router.post("/looks", status_code=201)
def look_at(use: Use, wanted: LibraryLookIn) -> JobOut:
    """Begin to look at a library. Nothing is changed."""
    mappings = tuple(PathMapping(each.there, each.here) for each in wanted.mappings)
    return job_out(use.comer.look(Looking(wanted.target, wanted.place, mappings, wanted.by_names)))


@router.get("/kind")
def tell_kind(use: Use, path: Annotated[str, Query(max_length=4096)]) -> str | None:
    """Which kind of library lies at a path, if any is told by its name."""
    return source_of(use.roots.check(Path(path)))


@router.get("/places")
def list_places(use: Use, path: Annotated[str | None, Query(max_length=4096)] = None) -> LibraryPlaces:
    """Folders and libraries in a folder below one of the allowed roots; without a path, in the first root."""
    folder = use.roots.check_folder(Path(path) if path else use.roots.roots[0])
    there = [(each, source_of(each)) for each in sorted(folder.iterdir()) if not each.name.startswith(".")]
    return LibraryPlaces(
        path=str(folder),
        parent=None if folder in use.roots.roots else str(folder.parent),
        roots=[str(root) for root in use.roots.roots],
        folders=[FolderOut(name=entry.name, path=str(entry.path)) for entry in list_folders(folder)],
        libraries=[
            LibraryFound(
                name=each.name,
                path=str(each),
                target=kind,  # type: ignore[arg-type]
                label=SOURCES[kind].label,
            )
            for each, kind in there
            if kind is not None
        ],
    )


@router.get("/offered")
def list_offered(use: Use) -> list[LibraryFound]:
    """Libraries that lie beside the music which Vinyl proposes to import."""
    folders = [folder for offered in use.settings.offered for folder in _beside(offered)]
    there = [each for folder in folders if use.roots.is_allowed(folder) for each in sorted(folder.iterdir())]
    return [
        LibraryFound(name=each.name, path=str(each), target=kind, label=SOURCES[kind].label)  # type: ignore[arg-type]
        for each in there
        if (kind := source_of(each)) is not None
    ]


def _beside(folder: Path) -> list[Path]:
    try:
        return [each for each in sorted(folder.parent.iterdir()) if each.is_dir() and each != folder]
    except OSError:
        return []


@router.get("/looks/{job_id}")
def get_review(use: Use, job_id: int) -> ReviewOut:
    """What a library holds, compared with what is here."""
    return review_out(use, job_id)


@router.get("/looks/{job_id}/rows")
def list_differences(
    use: Use,
    job_id: int,
    kind: Annotated[str | None, Query(max_length=40)] = None,
    words: Annotated[str, Query(max_length=200)] = "",
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> ReviewPage:
    """Values there that are not the ones here."""
    count, rows = rows_of(use.comer.review_of(job_id), kind, words, offset, limit)
    return ReviewPage(
        count=count,
        rows=[
            ReviewRow.model_validate(
                {name: getattr(row, name) for name in ReviewRow.model_fields if name != "ways"}
                | {"ways": list(row.ways)}
            )
            for row in rows
        ],
    )


@router.get("/looks/{job_id}/came")
def list_came(
    use: Use,
    job_id: int,
    state: Literal["wanted", "on disk", "by name"],
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
) -> list[CameOut]:
    """Tracks of the library that are not in this one, or are found by their names only."""
    found = came_of(use.comer.review_of(job_id), state, offset, MOST_CAME)
    return [CameOut(title=each.title, path=each.path, file=each.file, reason=each.reason) for each in found]


@router.post("/looks/{job_id}/choose", status_code=204)
def choose_answer(use: Use, job_id: int, wanted: ChooseIn) -> None:
    """Answer for differences: by the rules, theirs, ours, or add what is missing."""
    exchange.answer(use, job_id, wanted.choice, wanted.kind, wanted.ids)


@router.post("/looks/{job_id}/take", status_code=201)
def take_in(use: Use, job_id: int, wanted: TakeIn) -> JobOut:
    """Begin to take in what was chosen."""
    return job_out(use.comer.take(job_id, wanted.lists, wanted.plays))


@router.post("/looks/{job_id}/import", status_code=201)
def import_found(use: Use, job_id: int) -> JobOut:
    """Import the files that lie on the disk and are not in the library yet."""
    return job_out(use.runner.get(exchange.import_found(use, job_id).id))
