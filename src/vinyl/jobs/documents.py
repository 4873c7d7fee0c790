"""Writing the library as Vinyl's own document, and making an empty library what a document says."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import closing
from datetime import datetime
from pathlib import Path

from vinyl.core.foreign_paths import PathMapping
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.swapping import swap_in
from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.library.connections import connect
from vinyl.library.database import Database
from vinyl.library.documents import SUFFIX, read_document, restore, write_document
from vinyl.library.jobs import Job
from vinyl.media.files import AllowedRoots, FolderError, new_file, part_of

DOCUMENT, RESTORE = "document", "restore"
USUAL = f"collection{SUFFIX}"


class DocumentKeeper(Background):
    """The kinds of job that write a document, and that restore one."""

    def __init__(self, database: Database, roots: AllowedRoots) -> None:
        super().__init__(database)
        self._roots = roots

    def kinds(self) -> Sequence[Kind]:
        return (
            Kind(DOCUMENT, "track", "documents", self._write),
            Kind(RESTORE, "track", "documents", self._restore),
        )

    def write(self, place: Path, lists: Sequence[int] | None) -> Job:
        """Begin to write a document: everything, or some lists.

        Raises:
            LibraryFormatError: if nothing can be written there.
        """
        file = self._file(place)
        payload = {"place": str(file), "lists": None if lists is None else list(lists)}
        return self._runner.begin(DOCUMENT, file.name, payload)

    def restore(self, place: Path, mappings: Sequence[PathMapping]) -> Job:
        """Begin to make the library, which must be empty, what a document says."""
        file = self._checked(place)
        if not file.is_file():
            raise LibraryFormatError(f"There is no document at {file}.")
        pairs = [{"there": each.there, "here": each.here} for each in mappings]
        return self._runner.begin(RESTORE, file.name, {"place": str(file), "mappings": pairs})

    def _checked(self, place: Path) -> Path:
        try:
            return self._roots.check(place)
        except FolderError as error:
            raise LibraryFormatError(str(error)) from error

    def _file(self, place: Path) -> Path:
        file = self._checked(place)
        if file.is_dir():
            file = file / USUAL
        if not file.parent.is_dir():
            raise LibraryFormatError(f"There is no folder {file.parent}: make it, or choose another.")
        return file if file.name.endswith(SUFFIX) else file.with_name(f"{file.name}{SUFFIX}")

    def _write(self, task: Task) -> None:
        place = Path(task.job.payload["place"])

        def tell(done: int, total: int) -> None:
            task.check()
            task.progress(done, total)

        part = new_file(part_of(place))
        try:
            # A connection of its own: one picture of the library, while how far it is is written down.
            with (
                closing(connect(self._database.path, read_only=True)) as read,
                part.open("w", encoding="utf-8") as out,
            ):
                read.execute("BEGIN")
                count = write_document(read, out, task.job.payload["lists"], tell)
            kept = swap_in(part, place, datetime.now())
        finally:
            part.unlink(missing_ok=True)
        task.keep_result({"tracks": count, "place": str(place), "kept": str(kept) if kept else None})

    def _restore(self, task: Task) -> None:
        payload = task.job.payload
        mappings = [PathMapping(each["there"], each["here"]) for each in payload["mappings"]]

        task.progress(0, None, payload["place"])

        with Path(payload["place"]).open(encoding="utf-8") as lines, self._database.write() as connection:
            try:
                count = restore(connection, read_document(lines), mappings, lambda done: task.check())
            except UnicodeDecodeError as error:
                raise LibraryFormatError("This document is no text.") from error
        task.keep_result({"tracks": count})
