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
    """A track that is off the Shelf; ``kept`` is where its file lies put aside, None where it was not."""

    track_id: int
    artist: str
    title: str
    path: str
    size_bytes: int
    kept: str | None
    taken_at: str


@dataclass(frozen=True, slots=True)
class PutAside:
    """A file that lies put aside, or is on its way there or back."""

    track_id: int
    path: str
    kept: str


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


def take_off(connection: sqlite3.Connection, track_ids: Sequence[int], aside: bool) -> int:
    """Take tracks off the Shelf and out of every list; returns how many were on it.

    Args:
        aside: whether their files are to be put aside.
    """
    ids = json.dumps(list(track_ids))
    connection.execute("DELETE FROM crate_place WHERE track_id IN (SELECT value FROM json_each(?))", (ids,))
    count = connection.execute(
        "INSERT INTO off_shelf (track_id, aside, taken_at) "
        "SELECT id, ?, ? FROM shelf WHERE id IN (SELECT value FROM json_each(?))",
        (aside, now(), ids),
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


def is_off(connection: sqlite3.Connection, track_id: int) -> bool:
    """Whether a track was taken off the Shelf."""
    query = "SELECT 1 FROM off_shelf WHERE track_id = ?"
    return connection.execute(query, (track_id,)).fetchone() is not None


def paths_off(connection: sqlite3.Connection) -> set[str]:
    """The files of tracks that are off the Shelf: new to no watched folder."""
    rows = connection.execute("SELECT path FROM off_shelf o JOIN track t ON t.id = o.track_id")
    return {row[0] for row in rows}


def list_off(connection: sqlite3.Connection) -> list[OffShelf]:
    """All tracks that are off the Shelf, those taken off last first."""
    rows = connection.execute(
        f"""SELECT t.id AS track_id, {text_off("artist")} AS artist,
                   {text_off("title")} AS title, t.path, t.size_bytes, a.kept, o.taken_at
           FROM off_shelf o JOIN track t ON t.id = o.track_id LEFT JOIN put_aside a ON a.track_id = t.id
           ORDER BY o.taken_at DESC, t.id"""
    )
    return [OffShelf(**dict(row)) for row in rows]


def to_put_aside(connection: sqlite3.Connection) -> list[tuple[int, str]]:
    """Tracks whose files are to be put aside and were not yet, or not to the end, with their paths."""
    rows = connection.execute(
        """SELECT t.id, t.path FROM off_shelf o JOIN track t ON t.id = o.track_id
           WHERE o.aside AND NOT t.away ORDER BY t.id"""
    )
    return [(row[0], row[1]) for row in rows]


def to_put_back(connection: sqlite3.Connection) -> list[PutAside]:
    """Files that lie put aside though they need not any more."""
    rows = connection.execute(
        """SELECT track_id, path, kept FROM put_aside
           WHERE track_id NOT IN (SELECT track_id FROM off_shelf WHERE aside) ORDER BY track_id"""
    )
    return [PutAside(*row) for row in rows]


def list_put_aside(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[PutAside]:
    """Those of some tracks whose files lie put aside."""
    rows = connection.execute(
        "SELECT track_id, path, kept FROM put_aside WHERE track_id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(track_ids)),),
    )
    return [PutAside(*row) for row in rows]


def note_aside(connection: sqlite3.Connection, file: PutAside, size_bytes: int) -> None:
    """Note, before a file is moved, where it is and where it goes."""
    connection.execute(
        "INSERT OR REPLACE INTO put_aside (track_id, path, kept, size_bytes, put_at) VALUES (?, ?, ?, ?, ?)",
        (file.track_id, file.path, file.kept, size_bytes, now()),
    )


def stay(connection: sqlite3.Connection, track_id: int) -> None:
    """The file of a track lies where it belongs: it could not be put aside, or has come back."""
    connection.execute("DELETE FROM put_aside WHERE track_id = ?", (track_id,))


def forget_aside(connection: sqlite3.Connection, track_id: int) -> None:
    """The file of a track lies put aside no more, and is not to be: it was thrown away."""
    connection.execute("DELETE FROM put_aside WHERE track_id = ?", (track_id,))
    connection.execute("UPDATE off_shelf SET aside = 0 WHERE track_id = ?", (track_id,))
