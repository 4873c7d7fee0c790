"""Which files on a stick Vinyl has put there, and what they were when they were proved.

Only these are ever replaced or removed, whatever the stick's index says; and what packing goes on from is
this list, kept in the library and not on the stick, where a stranger could change it.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from pydantic import ValidationError

from vinyl.library.database import Database
from vinyl.sticks.index import FileEntry


@dataclass(frozen=True, slots=True)
class OwnFile:
    """A file that Vinyl wrote. ``bytes`` and ``sha256`` are None while it was not proved; ``entry`` is what
    it is, if it is sound; ``damage`` what a check found.
    """

    path: str
    bytes: int | None
    sha256: str | None
    entry: FileEntry | None
    damage: str


def read_own_files(connection: sqlite3.Connection, stick_id: int) -> dict[str, OwnFile]:
    """The list by path from the stick's root."""
    rows = connection.execute("SELECT path, told, damage FROM stick_file WHERE stick_id = ?", (stick_id,))
    return {row["path"]: _own_file(row["path"], row["told"], row["damage"]) for row in rows}


def _own_file(path: str, told: str | None, damage: str) -> OwnFile:
    said = json.loads(told) if told else {}
    try:
        entry = FileEntry.model_validate({**said, "file": path}) if "source" in said else None
    except ValidationError:
        entry = None
    return OwnFile(path, said.get("bytes"), said.get("sha256"), entry, damage)


def same_contents(connection: sqlite3.Connection) -> dict[int, tuple[int, ...]]:
    """For each stick those that hold the very same sound, lists aside: spares of each other."""
    sums: dict[int, list[str]] = {}
    rows = connection.execute(
        "SELECT stick_id, told ->> 'sha256' AS sha256 FROM stick_file "
        "WHERE told ->> 'source' IS NOT NULL AND damage = '' ORDER BY stick_id, sha256"
    )
    for row in rows:
        sums.setdefault(row["stick_id"], []).append(row["sha256"])
    return {
        stick_id: tuple(other for other, found in sums.items() if other != stick_id and found == mine)
        for stick_id, mine in sums.items()
    }


class OwnFiles:
    """The list of one stick, to be changed."""

    def __init__(self, database: Database, stick_id: int) -> None:
        self._database = database
        self._stick_id = stick_id

    def all(self) -> dict[str, OwnFile]:
        return read_own_files(self._database.read(), self._stick_id)

    def add(self, paths: Iterable[str]) -> None:
        """Note files that are about to be written."""
        with self._database.write() as connection:
            connection.executemany(
                "INSERT OR IGNORE INTO stick_file (stick_id, path) VALUES (?, ?)",
                [(self._stick_id, path) for path in paths],
            )

    def prove(self, entry: FileEntry) -> None:
        """Note a file of sound that is whole."""
        self.prove_all({entry.file: entry.model_dump(exclude={"file"})})

    def prove_all(self, told: Mapping[str, Mapping[str, object]]) -> None:
        """Note files that are whole: their bytes and sha256, and what else is to be kept of them."""
        with self._database.write() as connection:
            connection.executemany(
                "INSERT OR REPLACE INTO stick_file (stick_id, path, told) VALUES (?, ?, ?)",
                [(self._stick_id, path, json.dumps(said)) for path, said in told.items()],
            )

    def note_damage(self, found: Mapping[str, str]) -> None:
        """Keep what a check found: damage by path; all others are whole."""
        with self._database.write() as connection:
            connection.execute("UPDATE stick_file SET damage = '' WHERE stick_id = ?", (self._stick_id,))
            connection.executemany(
                "UPDATE stick_file SET damage = ? WHERE stick_id = ? AND path = ?",
                [(damage, self._stick_id, path) for path, damage in found.items()],
            )

    def drop(self, paths: Iterable[str]) -> None:
        """Forget files that were removed."""
        with self._database.write() as connection:
            connection.execute(
                "DELETE FROM stick_file WHERE stick_id = ? AND path IN (SELECT value FROM json_each(?))",
                (self._stick_id, json.dumps(list(paths))),
            )
