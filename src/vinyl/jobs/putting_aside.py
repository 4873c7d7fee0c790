"""Putting the files of tracks aside that were taken off the Shelf, and back where they were.

The library says which files are to lie aside; a step moves those that do not lie as they are to. Where a file
goes is written down before it is moved, so a killed server or a drive that was pulled loses none.
"""

from __future__ import annotations

import filecmp
import os
import shutil
from collections.abc import Sequence
from functools import partial
from pathlib import Path

from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.library import imports, off_shelf
from vinyl.library.database import Database
from vinyl.library.off_shelf import PutAside
from vinyl.library.storage import storage_words
from vinyl.media.files import AllowedRoots, FolderError, new_file

KIND = "put aside"


class AsidePutter(Background):
    """The kind of job that puts files aside and back.

    Args:
        folder: where they are kept.
    """

    def __init__(self, database: Database, roots: AllowedRoots, folder: Path) -> None:
        super().__init__(database)
        self._roots, self._folder = roots, folder
        # What the step in hand, or the last, has come to: tracks, and whether to put their files aside.
        self._tried: set[tuple[int, bool]] = set()

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "file", "put aside", self._step, more=self._has_more),)

    def begin(self) -> None:
        """Have files moved that do not lie as they are to, if there are any."""
        read = self._database.read()
        away, back = off_shelf.to_put_aside(read), off_shelf.to_put_back(read)
        if away or back:
            what = "files aside" if away else "files back"
            self._runner.begin(KIND, what, {}, unless=lambda there: next(iter(there), None))

    def _has_more(self) -> bool:
        """Whether files have come to be moved that were not tried yet."""
        read = self._database.read()
        return not self._tried.issuperset(_moves(off_shelf.to_put_aside(read), off_shelf.to_put_back(read)))

    def throw_away(self, track_ids: list[int]) -> tuple[int, list[str]]:
        """Delete files for good that lie put aside; returns the bytes that are free now, and what could not
        be deleted and why.
        """
        freed, problems = 0, list[str]()
        for file in off_shelf.list_put_aside(self._database.read(), track_ids):
            kept = Path(file.kept)
            try:
                size = kept.stat().st_size if kept.exists() else 0
                kept.unlink(missing_ok=True)
            except OSError as error:
                problems.append(f"{kept.name}: {storage_words(error)}")
                continue
            freed += size
            with self._database.write(background=True) as connection:
                off_shelf.forget_aside(connection, file.track_id)
        return freed, problems

    def _step(self, task: Task) -> None:
        read = self._database.read()
        away, back = off_shelf.to_put_aside(read), off_shelf.to_put_back(read)
        self._tried = _moves(away, back)
        total = len(away) + len(back)
        for done, (track_id, path) in enumerate(away):
            task.check()
            task.progress(done, total, Path(path).name)
            self._try(task, track_id, Path(path), back=None)
        for done, file in enumerate(back, len(away)):
            task.check()
            task.progress(done, total, Path(file.path).name)
            self._try(task, file.track_id, Path(file.path), back=file)

    def _try(self, task: Task, track_id: int, path: Path, back: PutAside | None) -> None:
        """Move one file; what goes wrong with it is its own, and it stays where it is."""
        move_it = partial(self._put_aside, track_id, path) if back is None else partial(self._put_back, back)
        try:
            task.try_item(path.name, move_it, track_id)
        except FolderError as error:
            task.fail_item(path.name, f"{error} It stays where it is.", track_id)

    def _put_aside(self, track_id: int, path: Path) -> None:
        self._roots.check(path)
        kept = self._folder / str(track_id) / path.name
        if path.exists() or not kept.exists():  # else it was moved before a break
            self._note_and_move(PutAside(track_id, str(path), str(kept)))
        with self._database.write(background=True) as connection:
            imports.mark_away(connection, [track_id], True)

    def _note_and_move(self, file: PutAside) -> None:
        path = Path(file.path)
        with self._database.write(background=True) as connection:
            off_shelf.note_aside(connection, file, path.stat().st_size)
        try:
            move(path, Path(file.kept))
        except OSError:
            with self._database.write(background=True) as connection:
                off_shelf.stay(connection, file.track_id)
            raise

    def _put_back(self, file: PutAside) -> None:
        path, kept = Path(file.path), Path(file.kept)
        if kept.exists():
            self._roots.check(path.parent)
            move(kept, path)
        with self._database.write(background=True) as connection:
            # Not that it is not to be put aside: that may be wished again meanwhile.
            off_shelf.stay(connection, file.track_id)
            imports.mark_away(connection, [file.track_id], not path.exists())


def _moves(away: Sequence[tuple[int, str]], back: Sequence[PutAside]) -> set[tuple[int, bool]]:
    return {(track_id, True) for track_id, _ in away} | {(file.track_id, False) for file in back}


def move(source: Path, target: Path) -> None:
    """Move a file, to another drive too. Begun again after a break it ends as it would have at first.

    Raises:
        OSError: where it cannot be moved, or another file is in its place; the source is whole then.
    """
    if target.exists() and not filecmp.cmp(source, target, shallow=False):
        raise FileExistsError(None, "another file is in its place")
    target.parent.mkdir(parents=True, exist_ok=True)
    if not target.exists() and source.stat().st_dev == target.parent.stat().st_dev:
        source.rename(target)
        return
    if not target.exists():
        _copy(source, target)
    source.unlink()


def _copy(source: Path, target: Path) -> None:
    part = new_file(target.with_name(f"{target.name}.part"))
    try:
        shutil.copy2(source, part)
        with part.open("rb") as written:
            os.fsync(written.fileno())
        if not filecmp.cmp(source, part, shallow=False):
            raise OSError(None, "what was written is not what was read")
        part.rename(target)
    finally:
        part.unlink(missing_ok=True)
