"""Putting the files of tracks aside that were taken off the Shelf, and back where they were.

The library says which files are to lie aside; a step moves those that do not lie as they are to. Where a file
goes is written down before it is moved, so a killed server or a drive that was pulled loses none.
"""

from __future__ import annotations

import filecmp
import hashlib
import os
import shutil
from collections.abc import Sequence
from functools import partial
from pathlib import Path

from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.library import imports, off_shelf
from vinyl.library.database import Database
from vinyl.library.off_shelf import PutAside, ToPutAside
from vinyl.library.storage import storage_words
from vinyl.media.files import AllowedRoots, FolderError, new_file

KIND = "put aside"
# Files of other drives are kept there: moving them is quick then, and fills no other. Hidden folders are not
# imported.
ON_A_DRIVE = ".put aside by Vinyl"


class AsidePutter(Background):
    """The kind of job that puts files aside and back.

    Args:
        folder: where those are kept that lie on its drive.
    """

    def __init__(self, database: Database, roots: AllowedRoots, folder: Path) -> None:
        super().__init__(database)
        self._roots, self._folder = roots, folder
        # What the step in hand, or the last, has come to: files, and whether to put them aside.
        self._tried: set[tuple[int, str, bool]] = set()

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

    def throw_away(self, track_ids: list[int], copies: Sequence[str] = ()) -> tuple[int, list[str]]:
        """Delete files for good that lie put aside; returns the bytes that are free now, and what could not
        be deleted and why.
        """
        freed, problems = 0, list[str]()
        for file in off_shelf.list_put_aside(self._database.read(), track_ids, copies):
            kept = Path(file.kept)
            try:
                size = kept.stat().st_size if kept.exists() else 0
                kept.unlink(missing_ok=True)
            except OSError as error:
                problems.append(f"{kept.name}: {storage_words(error)}")
                continue
            freed += size
            with self._database.write(background=True) as connection:
                off_shelf.forget_aside(connection, file)
        return freed, problems

    def _step(self, task: Task) -> None:
        read = self._database.read()
        away, back = off_shelf.to_put_aside(read), off_shelf.to_put_back(read)
        self._tried = _moves(away, back)
        total = len(away) + len(back)
        moves = [(file.track_id, file.path, partial(self._put_aside, file)) for file in away]
        moves += [(file.track_id, file.path, partial(self._put_back, file)) for file in back]
        for done, (track_id, path, move_it) in enumerate(moves):
            name = Path(path).name
            task.check()
            task.progress(done, total, name)
            # What goes wrong with a file is its own, and it stays where it is.
            try:
                task.try_item(name, move_it, track_id)
            except FolderError as error:
                task.fail_item(name, f"{error} It stays where it is.", track_id)

    def _put_aside(self, file: ToPutAside) -> None:
        path = Path(file.path)
        self._roots.check(path)
        known = off_shelf.list_put_aside(self._database.read(), [file.track_id], [file.path])
        begun = next((each for each in known if each.path == file.path), None)
        there = path.exists()
        if file.is_copy and not there and begun is None:
            with self._database.write(background=True) as connection:
                off_shelf.forget_copy(connection, file.track_id, file.path)
            return
        to = begun or PutAside(file.track_id, file.path, str(self._kept_at(file)), file.is_copy)
        if there or not Path(to.kept).exists():  # else it was moved before a break
            self._note_and_move(to)
        with self._database.write(background=True) as connection:
            off_shelf.note_moved(connection, to)
            if not file.is_copy:
                imports.mark_away(connection, [file.track_id], True)

    def _kept_at(self, file: ToPutAside) -> Path:
        """Where a file goes, on the drive on which it lies."""
        path = Path(file.path)
        within = Path(str(file.track_id))
        if file.is_copy:
            within /= hashlib.sha256(file.path.encode()).hexdigest()[:8]
        drive = path.stat().st_dev if path.exists() else None
        if drive in (None, self._folder.parent.stat().st_dev):
            return self._folder / within / path.name
        top = path.parent
        while self._roots.is_allowed(top.parent) and top.parent.stat().st_dev == drive and top != top.parent:
            top = top.parent
        return top / ON_A_DRIVE / within / path.name

    def _note_and_move(self, file: PutAside) -> None:
        path = Path(file.path)
        with self._database.write(background=True) as connection:
            off_shelf.note_aside(connection, file, path.stat().st_size)
        try:
            move(path, Path(file.kept))
        except OSError:
            with self._database.write(background=True) as connection:
                off_shelf.stay(connection, file)
            raise

    def _put_back(self, file: PutAside) -> None:
        path, kept = Path(file.path), Path(file.kept)
        if kept.exists():
            self._roots.check(path.parent)
            move(kept, path)
        with self._database.write(background=True) as connection:
            # Not that it is not to be put aside: that may be wished again meanwhile.
            off_shelf.stay(connection, file)
            if not file.is_copy:
                imports.mark_away(connection, [file.track_id], not path.exists())


def _moves(away: Sequence[ToPutAside], back: Sequence[PutAside]) -> set[tuple[int, str, bool]]:
    return {(file.track_id, file.path, True) for file in away} | {
        (file.track_id, file.path, False) for file in back
    }


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
