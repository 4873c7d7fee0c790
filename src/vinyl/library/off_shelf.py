"""Tracks taken off the Shelf. What is known of them stays, so that they can come back; their files stay too,
unless they are to be put aside.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from vinyl.library import flat
from vinyl.library.clock import now


@dataclass(frozen=True, slots=True)
class OffShelf:
    """A track that is off the Shelf, or a copy of a track's file that was only noted and is to lie aside;
    ``kept`` is where the file lies put aside, None where it was not, ``why`` is empty where nobody said.
    """

    track_id: int
    artist: str
    title: str
    path: str
    size_bytes: int
    kept: str | None
    taken_at: str
    why: str
    is_copy: bool


@dataclass(frozen=True, slots=True)
class PutAside:
    """A file that lies put aside, or is on its way there or back: a track's, or a copy of it."""

    track_id: int
    path: str
    kept: str
    is_copy: bool = False


@dataclass(frozen=True, slots=True)
class ToPutAside:
    """A file that is to be put aside: a track's, or a copy of it."""

    track_id: int
    path: str
    is_copy: bool


@dataclass(frozen=True, slots=True)
class WhatGoes:
    """What taking tracks off the Shelf would change: the lists that have them, by name with how many each
    has, and the sticks; ``away`` files are not there, ``copies`` of them lie elsewhere, ``plays`` stay told.
    """

    tracks: int
    size_bytes: int
    away: int
    copies: int
    plays: int
    lists: list[tuple[str, int]]
    sticks: list[tuple[str, int]]


def what_goes(connection: sqlite3.Connection, track_ids: Sequence[int]) -> WhatGoes:
    """What taking tracks off the Shelf would change."""
    ids = json.dumps(list(track_ids))
    among = "IN (SELECT value FROM json_each(?1))"
    row = connection.execute(
        f"""SELECT count(*), coalesce(sum(size_bytes), 0), coalesce(sum(away), 0),
              (SELECT count(*) FROM track_copy WHERE track_id {among}),
              (SELECT count(*) FROM play WHERE track_id {among})
            FROM track WHERE id {among}""",
        (ids,),
    ).fetchone()
    lists = connection.execute(
        f"""SELECT c.name, count(DISTINCT p.track_id) FROM crate_place p JOIN crate c ON c.id = p.crate_id
            WHERE p.track_id {among} GROUP BY c.id ORDER BY 2 DESC, c.name""",
        (ids,),
    )
    sticks = connection.execute(
        f"""SELECT s.name, count(DISTINCT p.gid) FROM stick_packed p JOIN stick s ON s.id = p.stick_id
            WHERE p.kind = 'track' AND p.gid IN (SELECT audio_hash FROM track WHERE id {among})
            GROUP BY s.id ORDER BY s.name""",
        (ids,),
    )
    tracks, size_bytes, away, copies, plays = row
    return WhatGoes(tracks, size_bytes, away, copies, plays, *(_named(found) for found in (lists, sticks)))


def _named(rows: Iterable[sqlite3.Row]) -> list[tuple[str, int]]:
    return [(row[0], row[1]) for row in rows]


def text_off(field: str) -> str:
    """SQL for a text of a track ``t`` that is off the Shelf, where what wins among its values is not kept."""
    return (
        f"coalesce((SELECT value FROM track_value v WHERE v.track_id = t.id AND v.field = '{field}' "
        "AND v.value <> '' ORDER BY v.source = 'by hand' DESC LIMIT 1), '')"
    )


def take_off(
    connection: sqlite3.Connection,
    track_ids: Sequence[int],
    aside: bool,
    why: str = "",
    twin_of: int | None = None,
) -> int:
    """Take tracks off the Shelf and out of every list; returns how many were on it.

    Args:
        aside: whether their files are to be put aside.
        why: what is told of it where they are listed.
        twin_of: the track that is kept in their place: what names them means that.
    """
    ids = json.dumps(list(track_ids))
    connection.execute("DELETE FROM crate_place WHERE track_id IN (SELECT value FROM json_each(?))", (ids,))
    count = connection.execute(
        "INSERT INTO off_shelf (track_id, aside, taken_at, why, twin_of) "
        "SELECT id, ?, ?, ?, ? FROM shelf WHERE id IN (SELECT value FROM json_each(?))",
        (aside, now(), why, twin_of, ids),
    ).rowcount
    flat.come_and_go(connection, track_ids)
    return count


def bring_back(connection: sqlite3.Connection, track_ids: Sequence[int]) -> int:
    """Put tracks onto the Shelf again; returns how many were off it."""
    count = connection.execute(
        "DELETE FROM off_shelf WHERE track_id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(track_ids)),),
    ).rowcount
    flat.come_and_go(connection, track_ids)
    return count


def take_copies_off(connection: sqlite3.Connection, paths: Sequence[str], why: str = "") -> int:
    """Have copies of tracks' files that were noted put aside; returns how many."""
    return connection.execute(
        """INSERT OR IGNORE INTO copy_off (track_id, path, taken_at, why)
           SELECT track_id, path, ?, ? FROM track_copy WHERE path IN (SELECT value FROM json_each(?))""",
        (now(), why, json.dumps(list(paths))),
    ).rowcount


def bring_copies_back(connection: sqlite3.Connection, paths: Sequence[str]) -> int:
    """Have copies lie again where they were; returns how many were to lie aside."""
    query = "DELETE FROM copy_off WHERE path IN (SELECT value FROM json_each(?))"
    return connection.execute(query, (json.dumps(list(paths)),)).rowcount


def is_off(connection: sqlite3.Connection, track_id: int) -> bool:
    """Whether a track was taken off the Shelf."""
    query = "SELECT 1 FROM off_shelf WHERE track_id = ?"
    return connection.execute(query, (track_id,)).fetchone() is not None


def paths_off(connection: sqlite3.Connection) -> set[str]:
    """The files of tracks that are off the Shelf: new to no watched folder."""
    rows = connection.execute("SELECT path FROM off_shelf o JOIN track t ON t.id = o.track_id")
    return {row[0] for row in rows}


def list_off(connection: sqlite3.Connection) -> list[OffShelf]:
    """All tracks and copies that are off the Shelf, those taken off last first."""
    rows = connection.execute(
        f"""SELECT t.id AS track_id, {text_off("artist")} AS artist,
                   {text_off("title")} AS title, t.path, t.size_bytes, a.kept, o.taken_at, o.why, 0 AS is_copy
           FROM off_shelf o JOIN track t ON t.id = o.track_id
           LEFT JOIN put_aside a ON a.track_id = t.id AND NOT a.is_copy
           UNION ALL
           SELECT t.id, {text_off("artist")}, {text_off("title")}, c.path, k.size_bytes, a.kept, c.taken_at,
                  c.why, 1
           FROM copy_off c JOIN track t ON t.id = c.track_id
           JOIN track_copy k ON k.track_id = t.id AND k.path = c.path
           LEFT JOIN put_aside a ON a.track_id = t.id AND a.path = c.path
           ORDER BY taken_at DESC, track_id"""
    )
    return [OffShelf(**{**dict(row), "is_copy": bool(row["is_copy"])}) for row in rows]


def to_put_aside(connection: sqlite3.Connection) -> list[ToPutAside]:
    """Files that are to be put aside and were not yet, or not to the end."""
    rows = connection.execute(
        """SELECT t.id, t.path, 0 FROM off_shelf o JOIN track t ON t.id = o.track_id
           WHERE o.aside AND NOT t.away
           UNION ALL
           SELECT track_id, path, 1 FROM copy_off c WHERE NOT EXISTS (
             SELECT 1 FROM put_aside a WHERE a.track_id = c.track_id AND a.path = c.path AND a.moved)
           ORDER BY 1, 3, 2"""
    )
    return [ToPutAside(row[0], row[1], bool(row[2])) for row in rows]


def to_put_back(connection: sqlite3.Connection) -> list[PutAside]:
    """Files that lie put aside though they need not any more."""
    rows = connection.execute(
        """SELECT track_id, path, kept, is_copy FROM put_aside a WHERE iif(is_copy,
             NOT EXISTS (SELECT 1 FROM copy_off c WHERE c.track_id = a.track_id AND c.path = a.path),
             track_id NOT IN (SELECT track_id FROM off_shelf WHERE aside)) ORDER BY track_id, path"""
    )
    return [_put_aside(row) for row in rows]


def list_put_aside(
    connection: sqlite3.Connection, track_ids: Sequence[int], copies: Sequence[str] = ()
) -> list[PutAside]:
    """Those of some tracks, and of some copies by their paths, whose files lie put aside."""
    rows = connection.execute(
        """SELECT track_id, path, kept, is_copy FROM put_aside WHERE iif(is_copy,
             path IN (SELECT value FROM json_each(?2)), track_id IN (SELECT value FROM json_each(?1)))""",
        (json.dumps(list(track_ids)), json.dumps(list(copies))),
    )
    return [_put_aside(row) for row in rows]


def _put_aside(row: sqlite3.Row) -> PutAside:
    return PutAside(row["track_id"], row["path"], row["kept"], bool(row["is_copy"]))


def note_aside(connection: sqlite3.Connection, file: PutAside, size_bytes: int) -> None:
    """Note, before a file is moved, where it is and where it goes."""
    connection.execute(
        "INSERT OR REPLACE INTO put_aside (track_id, path, kept, size_bytes, put_at, is_copy, moved) "
        "VALUES (?, ?, ?, ?, ?, ?, 0)",
        (file.track_id, file.path, file.kept, size_bytes, now(), file.is_copy),
    )


def note_moved(connection: sqlite3.Connection, file: PutAside) -> None:
    """Note that a file lies where it was to go."""
    where = "WHERE track_id = ? AND path = ?"
    connection.execute(f"UPDATE put_aside SET moved = 1 {where}", (file.track_id, file.path))


def stay(connection: sqlite3.Connection, file: PutAside) -> None:
    """A file lies where it belongs: it could not be put aside, or has come back."""
    connection.execute("DELETE FROM put_aside WHERE track_id = ? AND path = ?", (file.track_id, file.path))


def forget_aside(connection: sqlite3.Connection, file: PutAside) -> None:
    """A file lies put aside no more, and is not to be: it was thrown away."""
    stay(connection, file)
    if file.is_copy:
        forget_copy(connection, file.track_id, file.path)
    else:
        connection.execute("UPDATE off_shelf SET aside = 0 WHERE track_id = ?", (file.track_id,))


def forget_copy(connection: sqlite3.Connection, track_id: int, path: str) -> None:
    """A copy is there no more."""
    for table in ("copy_off", "track_copy"):
        connection.execute(f"DELETE FROM {table} WHERE track_id = ? AND path = ?", (track_id, path))
