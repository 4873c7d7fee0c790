"""Locks: parts of a track that neither edits nor analysis may change.

The values of a locked part are kept as they were, as values of a source that nothing beats.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence

from vinyl.core.rules.finishing import LOCKABLE, Part
from vinyl.library import flat
from vinyl.library.clock import now
from vinyl.library.errors import LibraryError, LockedError
from vinyl.library.values import TEXT_FIELDS, Field, get_rules, rank_sql

# The fields that each part holds. Structure lies on the grid's bars, so it stays with it.
HOLDS: Mapping[Part, tuple[Field, ...]] = {
    "grid": ("grid", "tempo", "structure"),
    "key": ("key",),
    "cues": (),
    "tags": (*TEXT_FIELDS, "year", "stars", "energy", "explicit", "colour", "marks", "never again", "wanted"),
}


def set_lock(connection: sqlite3.Connection, track_ids: Iterable[int], part: Part, locked: bool) -> int:
    """Lock or unlock a part of tracks. Tracks that have no grid are left out where grids are locked; returns
    how many.

    Raises:
        LibraryError: for grids, if none of the tracks has one.
    """
    wanted = list(track_ids)
    ids = wanted
    if locked and part == "grid":
        ids = _with_grid(connection, wanted)
        if wanted and not ids:
            raise LibraryError(
                "There is no beatgrid to lock yet: type or tap the tempo, or wait for the analysis."
            )
    change = _lock if locked else _unlock
    change(connection, json.dumps(ids), part)
    flat.settle(connection, ids, ["track_lock", *HOLDS[part]])
    return len(wanted) - len(ids)


def count_locks(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[Part, int]:
    """On how many of some tracks each part is locked."""
    rows = connection.execute(
        "SELECT part, count(*) FROM track_lock "
        "WHERE track_id IN (SELECT value FROM json_each(?)) GROUP BY part",
        (json.dumps(list(track_ids)),),
    )
    found: dict[str, int] = {row[0]: row[1] for row in rows}
    return {part: found.get(part, 0) for part in LOCKABLE}


def locks_of(connection: sqlite3.Connection, track_id: int) -> frozenset[str]:
    """The locked parts of a track."""
    rows = connection.execute("SELECT part FROM track_lock WHERE track_id = ?", (track_id,))
    return frozenset(row[0] for row in rows)


def check_open(connection: sqlite3.Connection, track_id: int, part: Part) -> None:
    """Let an edit pass only where the part is not locked.

    Raises:
        LockedError: if it is.
    """
    if part in locks_of(connection, track_id):
        row = connection.execute("SELECT title FROM shelf WHERE id = ?", (track_id,)).fetchone()
        title = row[0] if row else "a track that is off the Shelf"
        are, them = ("are", "them") if part in ("cues", "tags") else ("is", "it")
        raise LockedError(f"The {part} of “{title}” {are} locked. Unlock {them} first; nothing was changed.")


def without_locked(connection: sqlite3.Connection, track_ids: Sequence[int], part: Part) -> list[int]:
    """The tracks whose part is not locked, in the same order."""
    locked = {row[0] for row in connection.execute("SELECT track_id FROM track_lock WHERE part = ?", (part,))}
    return [track_id for track_id in track_ids if track_id not in locked]


def _lock(connection: sqlite3.Connection, ids: str, part: Part) -> None:
    """Keep the values that hold now, and where there is none, that there is none."""
    open_ids = (
        "SELECT t.id FROM json_each(?1) i JOIN track t ON t.id = i.value "
        "WHERE NOT EXISTS (SELECT 1 FROM track_lock l WHERE l.track_id = t.id AND l.part = ?2)"
    )
    rules = get_rules(connection)
    for field in HOLDS[part]:
        connection.execute(
            f"""INSERT INTO track_value (track_id, field, source, value, detail, doubt, origin, changed_at)
                SELECT track_id, field, 'locked', value, detail, doubt, source, changed_at FROM (
                  SELECT *, min({rank_sql(rules[field])}) FROM track_value
                  WHERE field = ?3 AND track_id IN ({open_ids}) AND (value IS NOT NULL OR field = 'grid')
                  GROUP BY track_id)
                WHERE true ON CONFLICT DO NOTHING""",
            (ids, part, field),
        )
    connection.execute(
        f"""INSERT INTO track_value (track_id, field, source, changed_at)
            SELECT t.id, f.value, 'locked', ?4 FROM ({open_ids}) t, json_each(?3) f
            WHERE true ON CONFLICT DO NOTHING""",
        (ids, part, json.dumps(HOLDS[part]), now()),
    )
    connection.execute(
        f"INSERT INTO track_lock (track_id, part) SELECT id, ?2 FROM ({open_ids})", (ids, part)
    )


def _unlock(connection: sqlite3.Connection, ids: str, part: Part) -> None:
    connection.execute(
        """DELETE FROM track_value WHERE source = 'locked' AND track_id IN (SELECT value FROM json_each(?))
           AND field IN (SELECT value FROM json_each(?))""",
        (ids, json.dumps(HOLDS[part])),
    )
    connection.execute(
        "DELETE FROM track_lock WHERE part = ? AND track_id IN (SELECT value FROM json_each(?))", (part, ids)
    )


def _with_grid(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[int]:
    rows = connection.execute(
        """SELECT i.value FROM json_each(?) i WHERE EXISTS (
             SELECT 1 FROM track_value v
             WHERE v.track_id = i.value AND v.field = 'grid' AND v.value IS NOT NULL)""",
        (json.dumps(list(track_ids)),),
    )
    return [row[0] for row in rows]
