"""Names that Vinyl gave to files: what such a name says was put there, and is never read as a title."""

from __future__ import annotations

import sqlite3
from pathlib import PurePath

from vinyl.library.values import Field


def note_renamed(connection: sqlite3.Connection, track_id: int, before: str, after: str) -> None:
    """Note that a track's file was given another name, where ``before`` and ``after`` are its paths."""
    given, own = PurePath(after).stem, own_stem(connection, PurePath(before).stem)
    connection.execute("DELETE FROM given_name WHERE track_id = ?", (track_id,))
    if given != own:
        connection.execute(
            "INSERT INTO given_name (track_id, given, own) VALUES (?, ?, ?)", (track_id, given, own)
        )


def said_by(connection: sqlite3.Connection, stem: str) -> dict[Field, str]:
    """Title, and artist where it is told, by the name of a file: what "Artist - Title" says."""
    own = own_stem(connection, stem)
    before, dash, after = own.partition(" - ")
    if dash and after.strip():
        return {"title": after.strip(), **({"artist": before.strip()} if before.strip() else {})}
    return {"title": own}


def own_stem(connection: sqlite3.Connection, stem: str) -> str:
    """What a file of a name (without its suffix) was called before Vinyl gave it this name."""
    row = connection.execute("SELECT own FROM given_name WHERE given = ? LIMIT 1", (stem,)).fetchone()
    return str(row[0]) if row else stem
