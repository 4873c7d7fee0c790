"""Bringing a playlist file in, or a folder as if it were one: looking what of it is where, then making a
crate of it and importing what lies on the disk.
"""

from __future__ import annotations

import json
import sqlite3
from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

from vinyl.core.foreign_paths import PathMapping
from vinyl.exchange.errors import ListError
from vinyl.exchange.lists import Columns, Entry, Playlist, Sheet, read_playlist
from vinyl.jobs.importing import Importer
from vinyl.jobs.resolving import Known, Resolved, Resolver, known_of, propose
from vinyl.jobs.workers import Workers
from vinyl.library import crates, wanted
from vinyl.library.database import Database
from vinyl.library.imports import ImportedFile
from vinyl.library.jobs import Job
from vinyl.library.values import Value, put
from vinyl.library.wanted import Placed, WantedEntry
from vinyl.media.files import AllowedRoots, walk_files
from vinyl.media.probe import AUDIO_SUFFIXES

READ_LIMIT_S = 60.0
SHOWN = 200


@dataclass(frozen=True, slots=True)
class ListChoice:
    """How the user wants a playlist to be understood."""

    mappings: tuple[PathMapping, ...] = ()
    by_names: bool = True
    columns: Columns | None = None


@dataclass(frozen=True, slots=True)
class Proposal:
    """A mapping with how many of the entries that are missing it finds."""

    mapping: PathMapping
    finds: int


@dataclass(frozen=True, slots=True)
class ListLook:
    """What a playlist would bring: how many entries are where, the first, which mappings would help."""

    playlist: Playlist
    counts: dict[str, int]
    resolved: list[Resolved]
    proposals: list[Proposal]


class Lister:
    """Looks at playlist files and brings them in."""

    def __init__(self, database: Database, roots: AllowedRoots, quick: Workers, importer: Importer) -> None:
        self._database, self._roots, self._quick, self._importer = database, roots, quick, importer

    def look(self, path: Path, choice: ListChoice) -> ListLook:
        """What a playlist would bring.

        Raises:
            FolderError: if it lies outside the allowed folders.
            ListError: if it cannot be read.
        """
        playlist = self._read(path, choice)
        known, resolver = self._resolver(path, choice)
        resolved = [resolver.resolve(entry) for entry in entries_of(playlist)]
        missing = [each.entry for each in resolved if each.state in ("wanted", "by name")]
        proposed = propose(missing, known, resolver)
        order = ("wanted", "by name", "on disk", "here")
        shown = sorted(resolved, key=lambda each: order.index(each.state))[:SHOWN]
        return ListLook(
            playlist,
            dict(Counter(each.state for each in resolved)),
            shown,
            [Proposal(each.mapping, finds) for each, finds in proposed if finds],
        )

    def bring_in(self, path: Path, choice: ListChoice, name: str) -> tuple[int | None, Job]:
        """Make a crate of a playlist, or of the files in a folder, and import what of it lies on the disk; a
        cue sheet makes no crate, its marks are offered as cues. Returns the crate's id and the import.

        Raises:
            FolderError, ListError: as ``look``.
            LibraryError: for a name that cannot be.
        """
        playlist = self._read(path, choice)
        _, resolver = self._resolver(path, choice)
        resolved = [resolver.resolve(entry) for entry in entries_of(playlist)]
        crate_id = None
        if playlist.entries:
            with self._database.write(f"Bring in the playlist “{name}”") as connection:
                free = crates.free_name(connection, name) if path.is_dir() else name
                crate_id = crates.make_crate(connection, free)
                wanted.append(connection, crate_id, [_place(each, path) for each in resolved])
        sheets = {
            each.file: marks_json(sheet)
            for each, sheet in zip(resolved, playlist.sheets, strict=False)
            if each.file
        }
        return crate_id, self._import(path, resolved, sheets)

    def _read(self, path: Path, choice: ListChoice) -> Playlist:
        real = self._roots.check_file_or_folder(path)
        if real.is_dir():
            return _of_folder(real)
        return self._quick.run(read_playlist, real, choice.columns, timeout_s=READ_LIMIT_S)

    def _resolver(self, path: Path, choice: ListChoice) -> tuple[Known, Resolver]:
        folder = self._roots.check(path).parent
        mapped = [Path(each.here) for each in choice.mappings]
        near = [folder, *(each for each in mapped if self._roots.is_allowed(each) and each.is_dir())]
        known = known_of(self._database.read(), near)
        return known, Resolver(known, self._roots, folder, choice.mappings, choice.by_names)

    def _import(self, path: Path, resolved: Sequence[Resolved], sheets: dict[str, str]) -> Job:
        """The import of what lies on the disk, its report begun with what needs no import."""
        files = [Path(each.file) for each in resolved if each.state == "on disk" and each.file]
        known = [(each.file, each.track_id) for each in resolved if each.track_id and each.file in sheets]
        with self._database.write(f"Take in the cue sheet {path.name}") as connection:
            for file, track_id in known:
                keep_marks(connection, track_id, sheets[file or ""])
        noted = [_noted(each) for each in resolved if each.state != "on disk"]
        return self._importer.add_list(files, str(path), noted, sheets)


def _of_folder(folder: Path) -> Playlist:
    """The audio files below a folder as the entries of a list."""
    files = [path for path in walk_files(folder) if path.suffix.lower() in AUDIO_SUFFIXES]
    if not files:
        raise ListError(f"There are no audio files in {folder}.")
    return Playlist(folder.name, "", tuple(Entry(str(path)) for path in files))


def entries_of(playlist: Playlist) -> tuple[Entry, ...]:
    """The entries of a list, or the files that a cue sheet divides."""
    return playlist.entries or tuple(Entry(sheet.path) for sheet in playlist.sheets)


def marks_json(sheet: Sheet) -> str:
    """A sheet's marks in the form that chapters of files are kept in."""
    marks = [{**asdict(mark), "end_s": None, "loops": False} for mark in sheet.marks]
    return json.dumps(marks, ensure_ascii=False)


def keep_marks(connection: sqlite3.Connection, track_id: int | None, marks: str) -> None:
    """Offer the marks of a cue sheet as cues of a track."""
    if track_id is not None:
        put(connection, [track_id], "another library", {"chapters": Value(marks)})


def _place(resolved: Resolved, path: Path) -> Placed:
    if resolved.track_id is not None:
        return resolved.track_id
    entry = resolved.entry
    return WantedEntry(entry.artist, entry.title, resolved.file or entry.path, path.name)


def _noted(resolved: Resolved) -> ImportedFile:
    """A line of the report for an entry that needs no import."""
    entry = resolved.entry
    words = " – ".join(filter(None, (entry.artist, entry.title))) or entry.path
    if resolved.state == "wanted":
        return ImportedFile(entry.path or words, "wanted", f"{words}: {resolved.reason}", None)
    how = "under another path, by its artist and title" if resolved.state == "by name" else "by its path"
    return ImportedFile(
        resolved.file or entry.path or words, "already here", f"It was found {how}.", resolved.track_id
    )
