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


def find_path(connection: sqlite3.Connection, paths: Iterable[str]) -> int | None:
    """The track of the first of some paths that one lies at, or a copy of it."""
    for path in paths:
        row = connection.execute(
            "SELECT id FROM track WHERE path = ?1 UNION ALL SELECT track_id FROM track_copy WHERE path = ?1",
            (path,),
        ).fetchone()
        if row:
            return int(row[0])
    return None


def find_named(connection: sqlite3.Connection, artist: str, title: str) -> int | None:
    """The track of an artist and a title, case and accents left aside; of a title alone only if one artist
    has it. What varies in writing, such as "(original mix)", does not count.
    """
    if not title:
        return None
    rows = connection.execute(
        "SELECT id, artist, title FROM shelf WHERE title = ? COLLATE NOCASE LIMIT ?", (title, LOOKED_AT)
    ).fetchall()
    found = _of(rows, artist, title)
    if found is None:
        where, values = compile_condition(AllOf((Words(f"{artist} {title}"),)))
        rows = connection.execute(
            f"SELECT id, artist, title FROM shelf WHERE {where} LIMIT ?", (*values, LOOKED_AT)
        ).fetchall()
        found = _of(rows, artist, title)
    return found


def _of(rows: list[sqlite3.Row], artist: str, title: str) -> int | None:
    if artist:
        wanted = name_key(artist, title)
        found = next(
            (row["id"] for row in rows if wanted and name_key(row["artist"], row["title"]) == wanted), None
        )
        if found is not None:
            return int(found)
        rows = [row for row in rows if not row["artist"]]
    same = [
        row
        for row in rows
        if name_key("?", row["title"]) == name_key("?", title) or fold(row["title"]) == fold(title)
    ]
    artists = {fold(row["artist"]) for row in same}
    return same[0]["id"] if len(artists) == 1 else None
