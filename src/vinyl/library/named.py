"""Finding the track that an artist and a title, or a path, stand for."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

from vinyl.core.naming import name_key
from vinyl.core.rules.conditions import AllOf, Words
from vinyl.core.text import fold
from vinyl.library.conditions import compile_condition

# Tracks with the same words that are looked at.
LOOKED_AT = 50
# Of more names than this the whole Shelf is gone through once, instead of asking for each.
MANY = 300


class Names:
    """Looks tracks up by artist and title, case and accents left aside, and what varies in writing, such as
    "(original mix)"; a title alone is enough if one artist has it.

    Args:
        how_many: names that will be looked up.
    """

    def __init__(self, connection: sqlite3.Connection, how_many: int = 1) -> None:
        self._connection = connection
        self._found: dict[tuple[str, str], int | None] = {}
        self._by_title: dict[str, list[sqlite3.Row]] | None = None
        if how_many > MANY:
            self._by_title = {}
            for row in connection.execute("SELECT id, artist, title FROM shelf ORDER BY id"):
                self._by_title.setdefault(_plain(row["title"]), []).append(row)

    def find(self, artist: str, title: str) -> int | None:
        """The track of an artist and a title; None where there is none, or where a title alone is not
        enough.
        """
        if not title:
            return None
        asked = (artist, title)
        if asked not in self._found:
            self._found[asked] = self._look(artist, title)
        return self._found[asked]

    def _look(self, artist: str, title: str) -> int | None:
        if self._by_title is not None:
            return _of(self._by_title.get(_plain(title), []), artist, title)
        same = self._connection.execute(
            "SELECT id, artist, title FROM shelf WHERE title = ? COLLATE NOCASE LIMIT ?", (title, LOOKED_AT)
        ).fetchall()
        found = _of(same, artist, title)
        if found is not None:
            return found
        where, values = compile_condition(AllOf((Words(f"{artist} {title}"),)))
        rows = self._connection.execute(
            f"SELECT id, artist, title FROM shelf WHERE {where} LIMIT ?", (*values, LOOKED_AT)
        )
        return _of(rows.fetchall(), artist, title)


def find_path(connection: sqlite3.Connection, paths: Iterable[str]) -> int | None:
    """The track of the first of some paths that one lies at, or a copy of it, or one that gave way to it."""
    for path in paths:
        row = connection.execute(
            """SELECT id FROM shelf WHERE id IN (SELECT id FROM track WHERE path = ?1
                 UNION ALL SELECT track_id FROM track_copy WHERE path = ?1
                 UNION ALL SELECT o.twin_of FROM off_shelf o JOIN track t ON t.id = o.track_id
                 WHERE t.path = ?1)""",
            (path,),
        ).fetchone()
        if row:
            return int(row[0])
    return None


def _plain(title: str) -> str:
    """A title without what varies in writing."""
    return name_key("any", title) or fold(title)


def _of(rows: list[sqlite3.Row], artist: str, title: str) -> int | None:
    if artist:
        wanted = name_key(artist, title)
        for row in rows:
            if wanted and name_key(row["artist"], row["title"]) == wanted:
                return int(row["id"])
        rows = [row for row in rows if not row["artist"]]
    same = [row for row in rows if _plain(row["title"]) == _plain(title)]
    artists = {fold(row["artist"]) for row in same}
    return int(same[0]["id"]) if len(artists) == 1 else None
