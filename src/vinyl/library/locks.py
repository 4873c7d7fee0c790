"""Locks: parts of a track that neither edits nor analysis may change."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence

from vinyl.core.rules.finishing import Part
from vinyl.library.errors import LibraryError, LockedError


def set_lock(connection: sqlite3.Connection, track_ids: Iterable[int], part: Part, locked: bool) -> None:
    """Lock or unlock a part of tracks.

    Raises:
        LibraryError: for the grid of a track that has none.
    """
    if not locked:
        connection.executemany(
            "DELETE FROM track_lock WHERE track_id = ? AND part = ?", [(i, part) for i in track_ids]
        )
        return
    for track_id in track_ids:
        if part == "grid" and not _has_grid(connection, track_id):
            raise LibraryError(
                "There is no beatgrid to lock yet: type or tap the tempo, or wait for the analysis."
            )
        connection.execute(
            "INSERT OR IGNORE INTO track_lock (track_id, part) SELECT id, ? FROM track WHERE id = ?",
            (part, track_id),
        )


def locks_of(connection: sqlite3.Connection, track_id: int) -> frozenset[str]:
    """The locked parts of a track."""
    return frozenset(
        row[0] for row in connection.execute("SELECT part FROM track_lock WHERE track_id = ?", (track_id,))
    )


def check_open(connection: sqlite3.Connection, track_id: int, part: Part) -> None:
    """Let an edit pass only where the part is not locked.

    Raises:
        LockedError: if it is.
    """
    if part in locks_of(connection, track_id):
        title = connection.execute("SELECT title FROM track WHERE id = ?", (track_id,)).fetchone()[0]
        are = "are" if part in ("cues", "tags") else "is"
        raise LockedError(
            f"The {part} of “{title}” {are} locked. Unlock {'them' if are == 'are' else 'it'} first; nothing was changed."
        )


def without_locked(connection: sqlite3.Connection, track_ids: Sequence[int], part: Part) -> list[int]:
    """The tracks whose part is not locked, in the same order."""
    locked = {row[0] for row in connection.execute("SELECT track_id FROM track_lock WHERE part = ?", (part,))}
    return [track_id for track_id in track_ids if track_id not in locked]


def _has_grid(connection: sqlite3.Connection, track_id: int) -> bool:
    row = connection.execute(
        "SELECT 1 FROM hand_grid WHERE track_id = ? UNION SELECT 1 FROM track_analysis WHERE track_id = ? AND anchors IS NOT NULL",
        (track_id, track_id),
    ).fetchone()
    return row is not None
