"""Cues and loops of a track."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence

from vinyl.core.cues.bounds import check_cue
from vinyl.core.cues.cue import Cue
from vinyl.library import flat
from vinyl.library.errors import NotFoundError
from vinyl.library.locks import check_open


def list_cues(connection: sqlite3.Connection, track_id: int) -> list[Cue]:
    """A track's cues in order of time."""
    rows = connection.execute("SELECT * FROM cue WHERE track_id = ? ORDER BY position_s, id", (track_id,))
    return [_from_row(row) for row in rows]


def add_cue(connection: sqlite3.Connection, track_id: int, cue: Cue) -> int:
    """Add a cue; its pad and its role are taken from any other cue that had them. Returns its id."""
    return add_cues(connection, track_id, [cue])[0]


def add_cues(connection: sqlite3.Connection, track_id: int, cues: Iterable[Cue]) -> list[int]:
    """Add cues one after the other, as ``add_cue`` does. Returns their ids."""
    check_open(connection, track_id, "cues")
    ids = [_insert(connection, track_id, cue) for cue in cues]
    flat.settle(connection, [track_id], ["cue"])
    return ids


def _insert(connection: sqlite3.Connection, track_id: int, cue: Cue) -> int:
    _check(connection, track_id, cue)
    _free_places(connection, track_id, cue)
    cursor = connection.execute(
        "INSERT INTO cue (track_id, position_s, length_s, label, role, colour, pad, engages) VALUES (?, ?, "
        "?, ?, ?, ?, ?, ?)",
        (track_id, cue.position_s, cue.length_s, cue.label, cue.role, cue.colour, cue.pad, cue.engages),
    )
    return int(cursor.lastrowid or 0)


def change_cue(connection: sqlite3.Connection, track_id: int, cue: Cue) -> None:
    """Replace the cue of the same id."""
    get_cue(connection, track_id, cue.id)
    check_open(connection, track_id, "cues")
    _check(connection, track_id, cue)
    _free_places(connection, track_id, cue)
    connection.execute(
        "UPDATE cue SET position_s = ?, length_s = ?, label = ?, role = ?, "
        "colour = ?, pad = ?, engages = ? WHERE id = ?",
        (cue.position_s, cue.length_s, cue.label, cue.role, cue.colour, cue.pad, cue.engages, cue.id),
    )
    flat.settle(connection, [track_id], ["cue"])


def delete_cues(connection: sqlite3.Connection, track_id: int, cue_ids: Iterable[int]) -> None:
    """Delete cues of a track by id."""
    check_open(connection, track_id, "cues")
    connection.executemany("DELETE FROM cue WHERE id = ? AND track_id = ?", [(i, track_id) for i in cue_ids])
    flat.settle(connection, [track_id], ["cue"])


def number_pads(connection: sqlite3.Connection, track_id: int) -> None:
    """Put the cues that are on pads onto pads 1, 2, 3… in order of time."""
    check_open(connection, track_id, "cues")
    on_pads = [cue.id for cue in list_cues(connection, track_id) if cue.pad is not None]
    connection.executemany("UPDATE cue SET pad = NULL WHERE id = ?", [(cue_id,) for cue_id in on_pads])
    connection.executemany(
        "UPDATE cue SET pad = ? WHERE id = ?", [(pad, cue_id) for pad, cue_id in enumerate(on_pads, 1)]
    )


def get_cue(connection: sqlite3.Connection, track_id: int, cue_id: int) -> Cue:
    """One cue of a track.

    Raises:
        NotFoundError: if the track has no such cue.
    """
    row = connection.execute("SELECT * FROM cue WHERE id = ? AND track_id = ?", (cue_id, track_id)).fetchone()
    if row is None:
        raise NotFoundError("This cue is no longer there.")
    return _from_row(row)


MARKS = {"in": "I", "main": "M", "out": "O"}


def without_in_point(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[int]:
    """Those of some tracks that have no in point, in their order."""
    rows = connection.execute(
        """SELECT i.value FROM json_each(?) i JOIN track t ON t.id = i.value
           WHERE NOT EXISTS (SELECT 1 FROM cue c WHERE c.track_id = t.id AND c.role = 'in') ORDER BY i.key""",
        (json.dumps(list(track_ids)),),
    )
    return [row[0] for row in rows]


def cue_marks(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[int, str]:
    """For each track its cues at a glance: I, M and O for in, main and out, and how many others."""
    rows = connection.execute(
        "SELECT track_id, role FROM cue "
        "WHERE track_id IN (SELECT value FROM json_each(?)) ORDER BY position_s",
        (json.dumps(list(track_ids)),),
    )
    roles: dict[int, list[str | None]] = {}
    for row in rows:
        roles.setdefault(row["track_id"], []).append(row["role"])
    return {track_id: _marks(found) for track_id, found in roles.items()}


def _marks(roles: list[str | None]) -> str:
    others = roles.count(None)
    named = [mark for role, mark in MARKS.items() if role in roles]
    if others:
        named.insert(len(named) - ("O" in named), str(others))
    return " ".join(named)


def _check(connection: sqlite3.Connection, track_id: int, cue: Cue) -> None:
    row = connection.execute("SELECT duration_s FROM track WHERE id = ?", (track_id,)).fetchone()
    if row is None:
        raise NotFoundError(f"Track {track_id} is not in the library (any more).")
    check_cue(cue.position_s, cue.length_s, cue.role, cue.pad, cue.colour, row["duration_s"])


def _free_places(connection: sqlite3.Connection, track_id: int, cue: Cue) -> None:
    if cue.pad is not None:
        connection.execute(
            "UPDATE cue SET pad = NULL WHERE track_id = ? AND pad = ? AND id <> ?",
            (track_id, cue.pad, cue.id),
        )
    if cue.role is not None:
        connection.execute(
            "UPDATE cue SET role = NULL WHERE track_id = ? AND role = ? AND id <> ?",
            (track_id, cue.role, cue.id),
        )


def _from_row(row: sqlite3.Row) -> Cue:
    return Cue(
        row["position_s"],
        row["length_s"],
        row["label"],
        row["role"],
        row["colour"],
        row["pad"],
        bool(row["engages"]),
        row["id"],
    )
