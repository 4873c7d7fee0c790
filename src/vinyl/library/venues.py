"""Venues, and the gigs that come again at them."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from vinyl.core.logbook.recurring import Evening, Weekly, find_weekly
from vinyl.core.text import fold
from vinyl.library.clock import local, minutes_of
from vinyl.library.errors import LibraryError, NotFoundError

COLUMNS = ("name", "clean_words", "players", "note")
LONGEST_NAME = 120


@dataclass(frozen=True, slots=True)
class Venue:
    """Where gigs are played: whether only clean words may be, and which players stand there."""

    id: int
    name: str
    clean_words: bool
    players: str
    note: str


@dataclass(frozen=True, slots=True)
class Recurring:
    """A gig that comes again: the weekday (0 is Monday), from and to as "HH:MM"; without an id it was not
    said but found among the nights.
    """

    id: int | None
    venue_id: int
    weekday: int
    begins: str
    ends: str | None
    kind: str


def list_venues(connection: sqlite3.Connection) -> list[Venue]:
    """All venues by name."""
    rows = connection.execute("SELECT * FROM venue ORDER BY name COLLATE NOCASE, id")
    return [_venue(row) for row in rows]


def get_venue(connection: sqlite3.Connection, venue_id: int) -> Venue:
    """One venue.

    Raises:
        NotFoundError: if it is gone.
    """
    row = connection.execute("SELECT * FROM venue WHERE id = ?", (venue_id,)).fetchone()
    if row is None:
        raise NotFoundError("This venue is no longer there.")
    return _venue(row)


def names(connection: sqlite3.Connection) -> list[tuple[int, str]]:
    """Ids and names of all venues."""
    return [(venue.id, venue.name) for venue in list_venues(connection)]


def make_venue(connection: sqlite3.Connection, name: str) -> int:
    """Make a venue; returns its id.

    Raises:
        LibraryError: for a name that cannot be.
    """
    cursor = connection.execute("INSERT INTO venue (name) VALUES (?)", (_free_name(connection, name),))
    return int(cursor.lastrowid or 0)


def named(connection: sqlite3.Connection, name: str) -> int:
    """The id of the venue of a name, which is made if there is none."""
    found = by_name(connection, name)
    return make_venue(connection, name) if found is None else found


def change_venue(connection: sqlite3.Connection, venue_id: int, changes: Mapping[str, Any]) -> None:
    """Change what is known of a venue, by names of COLUMNS.

    Raises:
        LibraryError: for a name that cannot be.
    """
    get_venue(connection, venue_id)
    if "name" in changes:
        changes = {**changes, "name": _free_name(connection, changes["name"], venue_id)}
    for name in COLUMNS:
        if name in changes:
            connection.execute(f"UPDATE venue SET {name} = ? WHERE id = ?", (changes[name], venue_id))


def delete_venue(connection: sqlite3.Connection, venue_id: int) -> None:
    """Delete a venue; its nights stay, without one."""
    get_venue(connection, venue_id)
    # By hand, not by the foreign key: so each change is noted for Undo.
    connection.execute("UPDATE gig SET venue_id = NULL WHERE venue_id = ?", (venue_id,))
    connection.execute("UPDATE crate SET venue_id = NULL WHERE venue_id = ?", (venue_id,))
    connection.execute("UPDATE dj_set SET venue_id = NULL WHERE venue_id = ?", (venue_id,))
    connection.execute("DELETE FROM recurring WHERE venue_id = ?", (venue_id,))
    connection.execute("DELETE FROM venue WHERE id = ?", (venue_id,))


def list_recurring(connection: sqlite3.Connection) -> list[Recurring]:
    """Gigs that come again: those that were said, and those that the nights show."""
    rows = connection.execute("SELECT * FROM recurring ORDER BY venue_id, weekday, begins")
    said = [
        Recurring(*(row[name] for name in ("id", "venue_id", "weekday", "begins", "ends", "kind")))
        for row in rows
    ]
    known = {(each.venue_id, each.weekday) for each in said}
    found = find_weekly(_evenings(connection))
    return said + [
        Recurring(None, each.venue_id, each.weekday, _clock(each.begins_min), None, "weekly")
        for each in found
        if (each.venue_id, each.weekday) not in known
    ]


def say_recurring(connection: sqlite3.Connection, venue_id: int, said: list[Recurring]) -> None:
    """Say which gigs come again at a venue, in place of what was said."""
    get_venue(connection, venue_id)
    connection.execute("DELETE FROM recurring WHERE venue_id = ?", (venue_id,))
    connection.executemany(
        "INSERT INTO recurring (venue_id, weekday, begins, ends, kind) VALUES (?, ?, ?, ?, ?)",
        [(venue_id, each.weekday, each.begins, each.ends, each.kind) for each in said],
    )


def weekly(recurring: Recurring) -> Weekly:
    """A gig that comes again as the core knows it."""
    return Weekly(recurring.venue_id, recurring.weekday, minutes_of(recurring.begins))


def _evenings(connection: sqlite3.Connection) -> list[Evening]:
    rows = connection.execute(
        "SELECT venue_id, began_at, began_offset_min FROM gig "
        "WHERE venue_id IS NOT NULL AND timed AND NOT practice "
        "ORDER BY began_at"
    )
    times = ((row["venue_id"], local(row["began_at"], row["began_offset_min"])) for row in rows)
    return [Evening(venue, at.date(), 60 * at.hour + at.minute) for venue, at in times]


def _clock(minutes: int) -> str:
    return f"{minutes // 60:02}:{minutes % 60:02}"


def _venue(row: sqlite3.Row) -> Venue:
    return Venue(row["id"], row["name"], bool(row["clean_words"]), row["players"], row["note"])


def by_name(connection: sqlite3.Connection, name: str) -> int | None:
    """The id of the venue of a name, if there is one."""
    wanted = fold(name.strip())
    return next((venue_id for venue_id, each in names(connection) if fold(each) == wanted), None)


def _free_name(connection: sqlite3.Connection, name: str, own: int | None = None) -> str:
    name = name.strip()
    if not name or len(name) > LONGEST_NAME:
        raise LibraryError(f"A venue's name has 1 to {LONGEST_NAME} characters.")
    if by_name(connection, name) not in (None, own):
        raise LibraryError(f"There is a venue called “{name}” already.")
    return name
