"""Which files on a stick Vinyl has put there: only these are ever removed, whatever the
stick's index says."""

from __future__ import annotations

import json
from collections.abc import Iterable

from vinyl.library.database import Database


class OwnFiles:
    """The list, kept in the library and not on the stick, where a stranger could change it."""

    def __init__(self, database: Database, stick_id: int) -> None:
        self._database = database
        self._stick_id = stick_id

    def all(self) -> set[str]:
        """Paths from the stick's root."""
        rows = self._database.read().execute(
            "SELECT path FROM stick_file WHERE stick_id = ?", (self._stick_id,)
        )
        return {row[0] for row in rows}

    def add(self, paths: Iterable[str]) -> None:
        """Note files that are about to be written."""
        with self._database.write() as connection:
            connection.executemany(
                "INSERT OR IGNORE INTO stick_file (stick_id, path) VALUES (?, ?)",
                [(self._stick_id, path) for path in paths],
            )

    def drop(self, paths: Iterable[str]) -> None:
        """Forget files that were removed."""
        with self._database.write() as connection:
            connection.execute(
                "DELETE FROM stick_file WHERE stick_id = ? AND path IN (SELECT value FROM json_each(?))",
                (self._stick_id, json.dumps(list(paths))),
            )
