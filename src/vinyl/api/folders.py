"""Where files lie: the folders of the disk with the tracks in them, and what is not in Vinyl yet."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query

from vinyl.api.models.folders import DiskFolder, DiskFolderContents
from vinyl.api.services import Use
from vinyl.core.errors import VinylError
from vinyl.jobs.workers import WorkerError
from vinyl.library import folders
from vinyl.media.files import folders_there, look_into

router = APIRouter(prefix="/api", tags=["folders"])

MOST_NEW = 1000
LOOK_LIMIT_S = 8.0


@router.get("/disk-folders")
def list_top_folders(use: Use) -> list[DiskFolder]:
    """The folders below which the files of all tracks lie."""
    connection = use.database.read()
    paths = folders.top_folders(connection)
    try:
        there = use.quick.run(folders_there, paths, use.roots, timeout_s=LOOK_LIMIT_S)
    except WorkerError:
        there = set()
    return [
        DiskFolder(
            name=Path(path).name or path,
            path=path,
            tracks=folders.count_below(connection, path),
            there=path in there,
        )
        for path in paths
    ]


@router.get("/disk-folders/in")
def look_into_folder(
    use: Use, path: Annotated[str, Query(min_length=1, max_length=4096)]
) -> DiskFolderContents:
    """What is in a folder: by the library, and by the disk where that can be looked at. One that does not
    answer is not waited for.
    """
    connection, problem = use.database.read(), None
    held = folders.held_in(connection, path)
    try:
        names, audio = use.quick.run(look_into, path, use.roots, timeout_s=LOOK_LIMIT_S)
    except VinylError as error:
        names, audio, problem = [], [], str(error)
    known = folders.known_names(connection, path, audio)
    new = [name for name in audio if name not in known]
    return DiskFolderContents(
        path=path,
        tracks=held.here,
        folders=[
            DiskFolder(
                name=name,
                path=str(Path(path) / name),
                tracks=held.within.get(name, 0),
                # Hidden folders are not listed, but what lies in them was brought in.
                there=name in names or (name.startswith(".") and problem is None),
            )
            for name in sorted({*names, *held.within}, key=str.casefold)
        ],
        new=new[:MOST_NEW],
        new_count=len(new),
        problem=problem,
    )
