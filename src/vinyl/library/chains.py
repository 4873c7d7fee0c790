"""The chain of a set: from which track one went on to which, where one went back, and branched."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from vinyl.library.clock import now
from vinyl.library.errors import LibraryError, NotFoundError

MOST_STEPS = 2000
Held = Literal["", "tray", "order"]


@dataclass(frozen=True, slots=True)
class Step:
    """A track that was gone on to, from which step (None where a chain begins), and where in the set it
    stands by now; measures are None where not known.
    """

    id: int
    from_id: int | None
    track_id: int | None
    artist: str
    title: str
    on_shelf: bool
    bpm: float | None
    key: str | None
    energy: int | None
    duration_s: float
    main_s: float | None
    held: Held


def list_steps(connection: sqlite3.Connection, set_id: int) -> list[Step]:
    """All steps of a set's chains, in the order they were made."""
    rows = connection.execute(
        """SELECT c.id, c.from_id, c.track_id, coalesce(s.artist, c.artist) AS artist,
             coalesce(s.title, c.title) AS title, s.id IS NOT NULL AS on_shelf, s.bpm, s.key, s.energy,
             coalesce(s.duration_s, 0.0) AS duration_s, s.main_s,
             coalesce((SELECT CASE max(e.placed) WHEN 1 THEN 'order' ELSE 'tray' END FROM set_entry e
                       WHERE e.set_id = c.set_id AND e.track_id = c.track_id HAVING count(*) > 0), '') AS held
           FROM chain_step c LEFT JOIN shelf s ON s.id = c.track_id WHERE c.set_id = ? ORDER BY c.id""",
        (set_id,),
    )
    return [Step(**{**dict(row), "on_shelf": bool(row["on_shelf"])}) for row in rows]


def go_on(connection: sqlite3.Connection, set_id: int, track_id: int, from_id: int | None) -> int:
    """Go on to a track from a step, or begin a chain with it; returns the step, which is the one there is
    where one went that way before.

    Raises:
        NotFoundError: if the step or the track is gone.
        LibraryError: if there would be too many steps.
    """
    rows = connection.execute(
        "SELECT id, from_id, track_id FROM chain_step WHERE set_id = ?", (set_id,)
    ).fetchall()
    if from_id is not None and from_id not in {row[0] for row in rows}:
        raise NotFoundError("This step of the chain is no longer there.")
    again = next((row[0] for row in rows if (row[1], row[2]) == (from_id, track_id)), None)
    if again is not None:
        return int(again)
    if len(rows) >= MOST_STEPS:
        raise LibraryError(f"The chain of a set has up to {MOST_STEPS:,} steps.")
    cursor = connection.execute(
        """INSERT INTO chain_step (set_id, from_id, track_id, artist, title, made_at)
           SELECT ?, ?, id, artist, title, ? FROM shelf WHERE id = ?""",
        (set_id, from_id, now(), track_id),
    )
    if not cursor.rowcount:
        raise NotFoundError("This track is no longer on the Shelf.")
    return int(cursor.lastrowid or 0)


def take_back(connection: sqlite3.Connection, set_id: int, step_id: int) -> int:
    """Take a step back with all that was gone on to from it; returns how many steps that are.

    Raises:
        NotFoundError: if it is gone.
    """
    rows = connection.execute(
        """WITH RECURSIVE gone (id, depth) AS (
             SELECT id, 0 FROM chain_step WHERE id = ? AND set_id = ?
             UNION ALL SELECT c.id, depth + 1 FROM chain_step c JOIN gone ON c.from_id = gone.id)
           SELECT id FROM gone ORDER BY depth DESC, id""",
        (step_id, set_id),
    ).fetchall()
    if not rows:
        raise NotFoundError("This step of the chain is no longer there.")
    # The last first, each by hand and not by the foreign key: so each is noted for Undo.
    connection.executemany("DELETE FROM chain_step WHERE id = ?", rows)
    return len(rows)


def forget(connection: sqlite3.Connection, set_id: int) -> None:
    """Take back all chains of a set."""
    for step in list_steps(connection, set_id):
        if step.from_id is None:
            take_back(connection, set_id, step.id)


def take_over(connection: sqlite3.Connection, kept_id: int, copy_ids: Sequence[int]) -> None:
    """Have a track stand where copies of it stood."""
    connection.execute(
        "UPDATE chain_step SET track_id = ? WHERE track_id IN (SELECT value FROM json_each(?))",
        (kept_id, json.dumps(list(copy_ids))),
    )
