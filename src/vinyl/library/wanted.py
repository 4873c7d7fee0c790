"""Wanted entries: places in crates for music that is not owned yet, turned into the track when it arrives."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from vinyl.core.naming import file_key, name_key
from vinyl.core.ordering import keys_between
from vinyl.library import sets
from vinyl.library.clock import now
from vinyl.library.errors import NotFoundError
from vinyl.library.places import last_position, list_places


@dataclass(frozen=True, slots=True)
class WantedEntry:
    """What is wanted: a name, the file it should be as far as is known, and the list that asks for it."""

    artist: str
    title: str
    path: str
    came_from: str


@dataclass(frozen=True, slots=True)
class WantedPlace:
    """A wanted entry at its place in a crate: the ``number``-th of all its places, from 1, after a track."""

    id: int
    artist: str
    title: str
    path: str
    came_from: str
    number: int
    after: str | None


# Entries of a crate that are shown at once.
MOST_LISTED = 500

# A place in a list that is brought in: a track, or an entry that is wanted.
Placed = int | WantedEntry


def append(connection: sqlite3.Connection, crate_id: int, places: Sequence[Placed]) -> None:
    """Put tracks and wanted entries at the end of a crate, in order; a track that is in it already is left
    out.
    """
    held = set(list_places(connection, crate_id).track_ids)
    new: list[Placed] = []
    for place in places:
        if place not in held:
            new.append(place)
        if isinstance(place, int):
            held.add(place)
    last = last_position(connection, crate_id)
    wanted_ids = iter(add_entries(connection, [place for place in new if isinstance(place, WantedEntry)]))
    connection.executemany(
        "INSERT INTO crate_place (crate_id, track_id, wanted_id, position) VALUES (?, ?, ?, ?)",
        [
            (crate_id, None, next(wanted_ids), position)
            if isinstance(place, WantedEntry)
            else (crate_id, place, None, position)
            for place, position in zip(new, keys_between(last, None, len(new)), strict=True)
        ],
    )


def add_entries(connection: sqlite3.Connection, entries: Sequence[WantedEntry]) -> range:
    """Keep wanted entries; returns their ids, which are never used again (AUTOINCREMENT)."""
    row = connection.execute("SELECT seq FROM sqlite_sequence WHERE name = 'wanted'").fetchone()
    ids = range((row[0] if row else 0) + 1, (row[0] if row else 0) + 1 + len(entries))
    made_at = now()
    connection.executemany(
        """INSERT INTO wanted (id, artist, title, path, came_from, name_key, file_key, made_at)
           VALUES (?, ?, ?, ?, ?, ?, ?, ?)""",
        (
            (
                wanted_id,
                entry.artist,
                entry.title,
                entry.path,
                entry.came_from,
                name_key(entry.artist, entry.title),
                file_key(_file_name(entry.path)),
                made_at,
            )
            for wanted_id, entry in zip(ids, entries, strict=True)
        ),
    )
    return ids


def list_wanted(connection: sqlite3.Connection, crate_id: int, most: int = MOST_LISTED) -> list[WantedPlace]:
    """What is wanted in a crate, in order; the first of it where it is much."""
    rows = connection.execute(
        """SELECT p.track_id, s.title AS track, w.id, w.artist, w.title, w.path, w.came_from
           FROM crate_place p LEFT JOIN wanted w ON w.id = p.wanted_id
           LEFT JOIN shelf s ON s.id = p.track_id WHERE p.crate_id = ? ORDER BY p.position, p.id""",
        (crate_id,),
    )
    found: list[WantedPlace] = []
    after: str | None = None
    for number, row in enumerate(rows, 1):
        if row["track_id"] is not None:
            after = row["track"]
        elif len(found) < most:
            said = {name: row[name] for name in ("id", "artist", "title", "path", "came_from")}
            found.append(WantedPlace(**said, number=number, after=after))
        else:
            break
    return found


def remove(connection: sqlite3.Connection, wanted_ids: Sequence[int]) -> None:
    """Want entries no more: their places go.

    Raises:
        NotFoundError: if none of them is there.
    """
    gone = connection.execute(
        "DELETE FROM crate_place WHERE wanted_id IN (SELECT value FROM json_each(?))", (_json(wanted_ids),)
    )
    connection.execute(
        "DELETE FROM wanted WHERE id IN (SELECT value FROM json_each(?))", (_json(wanted_ids),)
    )
    if not gone.rowcount:
        raise NotFoundError("These entries are no longer wanted.")


def remove_of_crate(connection: sqlite3.Connection, crate_id: int) -> None:
    """Want no more what only a crate asked for, before it is deleted."""
    ids = [
        row[0]
        for row in connection.execute(
            "SELECT wanted_id FROM crate_place WHERE crate_id = ? AND wanted_id IS NOT NULL", (crate_id,)
        )
    ]
    if ids:
        remove(connection, ids)


def is_any(connection: sqlite3.Connection) -> bool:
    """Whether anything is wanted."""
    return bool(connection.execute("SELECT EXISTS (SELECT 1 FROM wanted)").fetchone()[0])


@dataclass(frozen=True, slots=True)
class _Arrival:
    wanted_id: int
    track_id: int


def fulfil(
    connection: sqlite3.Connection, track_ids: Iterable[int], path: str | None = None
) -> dict[int, list[str]]:
    """Put tracks that have arrived where they were wanted; returns the names of lists and sets by track.

    An entry is met by the file that it names, else by a file of the same name or by artist and title.

    Args:
        path: where the file lies that arrived, if that is not the track's own: a copy of it.
    """
    ids = list(track_ids)
    found = sets.fulfil(connection, ids)
    if not is_any(connection):
        return found
    for arrival in _arrivals(connection, ids, path):
        for place in connection.execute(
            """SELECT p.id, p.crate_id, c.name FROM crate_place p JOIN crate c ON c.id = p.crate_id
               WHERE p.wanted_id = ?""",
            (arrival.wanted_id,),
        ).fetchall():
            _fill(connection, place["id"], place["crate_id"], arrival.track_id)
            found.setdefault(arrival.track_id, []).append(place["name"])
        connection.execute("DELETE FROM wanted WHERE id = ?", (arrival.wanted_id,))
    return found


def _fill(connection: sqlite3.Connection, place_id: int, crate_id: int, track_id: int) -> None:
    """Turn a wanted place into a track's, or drop it where the crate has the track already."""
    has = (
        "SELECT 1 FROM crate_place p JOIN crate c ON c.id = p.crate_id "
        "WHERE p.crate_id = ? AND p.track_id = ? AND NOT c.repeats"
    )
    if connection.execute(has, (crate_id, track_id)).fetchone():
        connection.execute("DELETE FROM crate_place WHERE id = ?", (place_id,))
    else:
        connection.execute(
            "UPDATE crate_place SET track_id = ?, wanted_id = NULL WHERE id = ?", (track_id, place_id)
        )


def _arrivals(connection: sqlite3.Connection, track_ids: Iterable[int], path: str | None) -> list[_Arrival]:
    """Which wanted entries are met by which tracks, each entry by one."""
    rows = connection.execute(
        """SELECT t.id, t.path, s.artist, s.title FROM json_each(?) i JOIN track t ON t.id = i.value
           JOIN shelf s ON s.id = t.id ORDER BY t.id""",
        (_json(track_ids),),
    ).fetchall()
    met: dict[int, int] = {}
    for row in rows:
        found = connection.execute(
            """SELECT id FROM wanted WHERE path = ?1
               UNION SELECT id FROM wanted WHERE file_key = ?2 AND file_key <> ''
               UNION SELECT id FROM wanted WHERE name_key = ?3 AND name_key <> ''""",
            (
                path or row["path"],
                file_key(_file_name(path or row["path"])),
                name_key(row["artist"], row["title"]),
            ),
        )
        for (wanted_id,) in found.fetchall():
            met.setdefault(wanted_id, row["id"])
    return [_Arrival(wanted_id, track_id) for wanted_id, track_id in met.items()]


def _file_name(path: str) -> str:
    """The name of a file, whichever system's path it is."""
    return path.replace("\\", "/").rpartition("/")[2]


def _json(ids: Iterable[int]) -> str:
    return json.dumps(list(ids))
