"""Watched folders: what is new in them is imported once it is whole, also what came while nobody watched."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from watchfiles import Change, watch

from vinyl.jobs.importing import Importer
from vinyl.library import imports, off_shelf, watched
from vinyl.library.database import Database
from vinyl.media.files import AllowedRoots, FolderError, walk_files
from vinyl.media.probe import AUDIO_SUFFIXES

SUBJECT = "New in watched folders"
# A file counts as whole when it has not grown for so long; so often that is looked at.
SETTLED_S = 2.0
LOOK_MS = 1000
# Folders that are away, and those that cannot be watched, are looked at again so often.
LOOK_AGAIN_S = 30.0

log = logging.getLogger("vinyl.watching")


@dataclass(slots=True)
class Pending:
    """Files that are new or different, with their size and since when they have had it."""

    seen: dict[str, tuple[int, float]] = field(default_factory=dict)

    def look(self, paths: Iterable[str], now_s: float) -> list[str]:
        """Note paths, and take out those that have had one size for SETTLED_S; what is gone is dropped."""
        for path in paths:
            self.seen.setdefault(path, (-1, now_s))
        whole = []
        for path, (size, since_s) in list(self.seen.items()):
            try:
                size_now = Path(path).stat().st_size
            except OSError:
                del self.seen[path]
                continue
            if size_now != size:
                self.seen[path] = (size_now, now_s)
            elif now_s - since_s >= SETTLED_S:
                whole.append(path)
                del self.seen[path]
        return sorted(whole)


class Watcher:
    """Looks after the watched folders in a thread of its own."""

    def __init__(self, database: Database, roots: AllowedRoots, importer: Importer) -> None:
        self._database, self._roots, self._importer = database, roots, importer
        self._stopping, self._again = threading.Event(), threading.Event()
        self.problem = ""

    def start(self) -> None:
        """Begin to watch."""
        threading.Thread(target=self._loop, name="watching", daemon=True).start()

    def stop(self) -> None:
        """Watch no more."""
        self._stopping.set()
        self._again.set()

    def look_again(self) -> None:
        """Go by the folders as they are chosen now."""
        self._again.set()

    def _loop(self) -> None:
        while not self._stopping.is_set():
            self._again.clear()
            try:
                folders = self._folders()
                self._scan(folders)
                if folders:
                    self._watch(folders)
                self.problem = ""
            except Exception as error:  # watching must go on, whatever a folder or a drive does
                log.exception("watching")
                self.problem = (
                    f"Folders cannot be watched just now ({error}); they are looked at now and then."
                )
            self._again.wait(LOOK_AGAIN_S)

    def _folders(self) -> list[Path]:
        """The chosen folders that are there and may be read."""
        found = []
        for path in watched.get_folders(self._database.read()):
            try:
                found.append(self._roots.check_folder(Path(path)))
            except FolderError:
                continue
        return found

    def _scan(self, folders: Sequence[Path]) -> None:
        """Import what the folders hold that the library does not know as it is."""
        read = self._database.read()
        known, refused = imports.known_at(read, [str(folder) for folder in folders]), imports.refused_at(read)
        files = (file for folder in folders for file in walk_files(folder))
        new = [str(file) for file in files if is_new(file, known, refused)]
        if new:
            self._import(new)

    def _watch(self, folders: Sequence[Path]) -> None:
        pending = Pending()
        ends = time.monotonic() + LOOK_AGAIN_S
        changes = watch(
            *folders,
            watch_filter=_is_audio,
            stop_event=self._again,
            rust_timeout=LOOK_MS,
            yield_on_timeout=True,
            raise_interrupt=False,
            ignore_permission_denied=True,
        )
        for found in changes:
            paths = [path for change, path in found if change is not Change.deleted]
            whole = pending.look(paths, time.monotonic())
            if whole:
                self._import(whole)
            if not pending.seen and time.monotonic() > ends and self._folders() != list(folders):
                return

    def _import(self, seen: Sequence[str]) -> None:
        """Import what was seen. What was taken off the Shelf comes back only where somebody asks for it."""
        off = off_shelf.paths_off(self._database.read())
        paths = [path for path in seen if path not in off]
        if not paths:
            return
        subject = paths[0] if len(paths) == 1 else f"{SUBJECT}: {len(paths)} files"
        self._importer.add([Path(path) for path in paths], subject)


def _is_audio(change: Change, path: str) -> bool:
    file = Path(path)
    return file.suffix.lower() in AUDIO_SUFFIXES and not file.name.startswith(".")


def is_new(file: Path, known: dict[str, tuple[int, int]], refused: dict[str, float]) -> bool:
    """Whether a file is not in the library as it is, and was not refused as it is."""
    if file.suffix.lower() not in AUDIO_SUFFIXES:
        return False
    try:
        stat = file.stat()
    except OSError:
        return False
    if stat.st_mtime < refused.get(str(file), 0.0):
        return False
    return known.get(str(file)) != (stat.st_size, stat.st_mtime_ns)
