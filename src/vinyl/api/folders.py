"""Where files lie: the folders of the disk with the tracks in them, and what is not in Vinyl yet."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query

from vinyl.api.models.folders import DiskFolder, DiskFolderContents
from vinyl.api.services import Use
from vinyl.core.errors import VinylError
from vinyl.library import folders
from vinyl.media.files import FolderError, look_into

router = APIRouter(prefix="/api", tags=["folders"])

MOST_NEW = 1000
LOOK_LIMIT_S = 8.0


@router.get("/disk-folders")
def list_top_folders(use: Use) -> list[DiskFolder]:
    """The folders below which the files of all tracks lie."""
    connection = use.database.read()
    return [
        DiskFolder(
            name=Path(path).name or path,
            path=path,
            tracks=folders.count_below(connection, path),
            there=use.roots.is_allowed(Path(path)) and Path(path).is_dir(),
        )
        for path in folders.top_folders(connection)
    ]


@router.get("/disk-folders/in")
def look_into_folder(
    use: Use, path: Annotated[str, Query(min_length=1, max_length=4096)]
) -> DiskFolderContents:
    """What is in a folder: by the library, and by the disk where that can be looked at."""
    connection, problem = use.database.read(), None
    held = folders.held_in(connection, path)
    try:
        names, audio = _on_disk(use, path)
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


def _on_disk(use: Use, path: str) -> tuple[list[str], list[str]]:
    """The names of the folders and audio files in a folder. A disk that does not answer is not waited for.

    Raises:
        VinylError: if it cannot be looked at.
    """
    folder = use.roots.check(Path(path))
    if str(folder) != path:
        raise FolderError(f"{path} is a way to {folder}: look there.")
    return use.quick.run(look_into, folder, timeout_s=LOOK_LIMIT_S)
