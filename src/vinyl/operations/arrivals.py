"""What is done with the folders and files that music comes from, and with tracks that go."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from vinyl.core.rhythm.windows import Window
from vinyl.library import imports, off_shelf, watched
from vinyl.library.errors import NotFoundError
from vinyl.library.imports import Outcome
from vinyl.library.jobs import Job
from vinyl.media.files import FolderError
from vinyl.operations.services import Services
from vinyl.operations.words import many


def begin_import(services: Services, paths: Sequence[Path], window: Window | None = None) -> Job:
    """Import files and folders in the background.

    Raises:
        FolderError: for what is not there, or lies outside the folders that may be read.
    """
    checked = [services.roots.check_file_or_folder(path) for path in paths]
    return services.importer.add(checked, window_bpm=window)


def import_again(
    services: Services, job_id: int, outcome: Outcome | None, paths: Sequence[str], window: Window | None
) -> Job:
    """Import files of an earlier import once more: all of an outcome, or single ones.

    Raises:
        FolderError: if none is there any more.
    """
    listed = imports.paths_of(services.database.read(), job_id, outcome, paths)
    there = [Path(path) for path in listed if Path(path).exists()]
    if not there:
        raise FolderError("None of these files is there any more.")
    return services.importer.add(there, window_bpm=window)


def set_watched(services: Services, folders: Sequence[str]) -> None:
    """Watch these folders and no others; one that is away stays if it was watched before."""
    before = set(watched.get_folders(services.database.read()))
    checked = [path if path in before else str(services.roots.check_folder(Path(path))) for path in folders]
    with services.database.write("Change which folders are watched") as connection:
        watched.set_folders(connection, checked)
    services.watcher.look_again()


def take_off(services: Services, track_ids: Sequence[int], aside: bool) -> int:
    """Take tracks off the Shelf and out of all lists, their files aside if asked; returns how many."""
    with services.database.write(f"Take {many(track_ids)} off the Shelf") as connection:
        count = off_shelf.take_off(connection, track_ids, aside)
    services.aside_putter.begin()
    return count


def bring_back(services: Services, track_ids: Sequence[int], copies: Sequence[str] = ()) -> int:
    """Put tracks onto the Shelf again, and files, copies by their paths too, back where they were; returns
    how many.

    Raises:
        NotFoundError: if none of them is off the Shelf.
    """
    what = many(track_ids) if track_ids else many(copies, "copy", "copies")
    with services.database.write(f"Bring {what} back") as connection:
        count = off_shelf.bring_back(connection, track_ids)
        count += off_shelf.bring_copies_back(connection, copies)
    if not count:
        raise NotFoundError("None of these is off the Shelf (any more).")
    services.aside_putter.begin()
    services.twin_finder.begin()
    return count
