"""Gigs: making and changing them, throwing practice away, joining and splitting nights."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, tzinfo
from typing import Any

from vinyl.core.logbook.nights import why_practice
from vinyl.core.ordering import keys_between
from vinyl.library import flat, venues
from vinyl.library.clock import from_seconds, local, offset_min, seconds, zone_of
from vinyl.library.errors import LibraryError, NotFoundError

COLUMNS = (
    "venue_id", "name", "kind", "began_at", "began_offset_min", "ended_at", "ended_offset_min", "timed",
    "note", "came_from",
)  # fmt: skip
MOST_PLAYS = 2000


@dataclass(frozen=True, slots=True)
class Facts:
    """What is known of a gig, besides what was played: times as stored, with their offsets, which are those
    of here where they are not said; only the date counts if it is not ``timed``.
    """

    began_at: str
    venue_id: int | None = None
    name: str = ""
    kind: str = ""
    ended_at: str | None = None
    timed: bool = True
    note: str = ""
    came_from: str = ""
    began_offset_min: int | None = None
    ended_offset_min: int | None = None

    @property
    def began(self) -> datetime:
        """When it began, by the clock on the wall where it was."""
        return local(self.began_at, self._offset(self.began_offset_min, self.began_at))

    @property
    def ended(self) -> datetime | None:
        """When it ended, by the clock on the wall, if that is known."""
        if self.ended_at is None:
            return None
        return local(self.ended_at, self._offset(self.ended_offset_min, self.ended_at))

    @property
    def zone(self) -> tzinfo | None:
        """The zone that it was in; None for the one here."""
        return zone_of(self.began_at, self._offset(self.began_offset_min, self.began_at))

    def offset_at(self, at: str) -> int:
        """The offset of a time of the night: that of here, unless the night was in another zone."""
        began = self._offset(self.began_offset_min, self.began_at)
        return offset_min(at) if self.zone is None else began

    def _offset(self, said: int | None, at: str) -> int:
        return offset_min(at) if said is None else said


@dataclass(frozen=True, slots=True)
class Gig:
    """A gig, with how many tracks were played, how many went well, and how many are not on the Shelf."""

    id: int
    facts: Facts
    practice: bool
    tracks: int
    went_well: int
    not_here: int
    looks_like_practice: tuple[str, ...]


def list_gigs(connection: sqlite3.Connection, practice: bool | None = False) -> list[Gig]:
    """All gigs, the newest first; those thrown away as practice if that is wanted, all with None."""
    where = "" if practice is None else f"WHERE g.practice = {int(practice)}"
    return [_gig(row) for row in connection.execute(_query(where))]


def get_gigs(connection: sqlite3.Connection, gig_ids: Sequence[int]) -> list[Gig]:
    """Some gigs, the newest first.

    Raises:
        NotFoundError: if one of them is gone.
    """
    where = "WHERE g.id IN (SELECT value FROM json_each(?))"
    found = [_gig(row) for row in connection.execute(_query(where), (json.dumps(list(gig_ids)),))]
    if len(found) < len(set(gig_ids)):
        raise NotFoundError("This night is no longer in the Logbook.")
    return found


def get_gig(connection: sqlite3.Connection, gig_id: int) -> Gig:
    """One gig.

    Raises:
        NotFoundError: if it is gone.
    """
    return get_gigs(connection, [gig_id])[0]


def make_gig(connection: sqlite3.Connection, facts: Facts) -> int:
    """Make a gig at which nothing was played yet; returns its id."""
    marks = ", ".join("?" * len(COLUMNS))
    began, ended = facts.began_offset_min, facts.ended_offset_min
    facts = replace(
        facts,
        began_offset_min=offset_min(facts.began_at) if began is None else began,
        ended_offset_min=offset_min(facts.ended_at) if ended is None else ended,
    )
    values = [getattr(facts, name) for name in COLUMNS]
    cursor = connection.execute(f"INSERT INTO gig ({', '.join(COLUMNS)}) VALUES ({marks})", values)
    return int(cursor.lastrowid or 0)


def change_gig(connection: sqlite3.Connection, gig_id: int, changes: Mapping[str, Any]) -> None:
    """Change what is known of a gig, by names of COLUMNS. With its beginning all that was played there
    moves.
    """
    before = get_gig(connection, gig_id).facts
    if changes.get("venue_id") is not None:
        venues.get_venue(connection, changes["venue_id"])
    for name in COLUMNS:
        if name in changes:
            connection.execute(f"UPDATE gig SET {name} = ? WHERE id = ?", (changes[name], gig_id))
    moved_s = seconds(changes.get("began_at", before.began_at)) - seconds(before.began_at)
    if moved_s:
        _move_plays(connection, gig_id, moved_s)
    settle(connection, [gig_id])


def throw_away(connection: sqlite3.Connection, gig_ids: Sequence[int], practice: bool = True) -> None:
    """Throw gigs away as practice, or bring them back."""
    get_gigs(connection, gig_ids)
    connection.execute(
        "UPDATE gig SET practice = ? WHERE id IN (SELECT value FROM json_each(?))",
        (practice, json.dumps(list(gig_ids))),
    )
    settle(connection, gig_ids)


def delete_gigs(connection: sqlite3.Connection, gig_ids: Sequence[int]) -> None:
    """Delete gigs with all that is known of what was played there."""
    get_gigs(connection, gig_ids)
    ids, tracks = json.dumps(list(gig_ids)), tracks_of(connection, gig_ids)
    connection.execute("DELETE FROM play WHERE gig_id IN (SELECT value FROM json_each(?))", (ids,))
    connection.execute("DELETE FROM gig WHERE id IN (SELECT value FROM json_each(?))", (ids,))
    flat.settle(connection, tracks, ["play"])


def join_gigs(connection: sqlite3.Connection, gig_ids: Sequence[int]) -> int:
    """Make one gig of several, in the order in which they began; returns its id, which is the first's.

    Raises:
        LibraryError: if there are not two.
    """
    found = sorted(get_gigs(connection, gig_ids), key=lambda gig: gig.facts.began_at)
    if len(found) < 2:
        raise LibraryError("Choose two nights or more to join them.")
    if sum(gig.tracks for gig in found) > MOST_PLAYS:
        raise LibraryError(f"A night can have {MOST_PLAYS:,} plays at the most.")
    first = found[0]
    ids = json.dumps([gig.id for gig in found])
    plays = connection.execute(
        """SELECT p.id FROM play p JOIN gig g ON g.id = p.gig_id WHERE g.id IN (SELECT value FROM
        json_each(?))
           ORDER BY g.began_at, g.id, p.position, p.id""",
        (ids,),
    ).fetchall()
    order(connection, [row[0] for row in plays])
    connection.execute(
        "UPDATE play SET gig_id = ? WHERE gig_id IN (SELECT value FROM json_each(?))", (first.id, ids)
    )
    connection.execute(
        "UPDATE gig SET ended_at = ?, ended_offset_min = ?, name = ?, kind = ?, venue_id = ?, note = ?, "
        "practice = ? WHERE id = ?",
        (*_joined(found), first.id),
    )
    connection.execute(
        "DELETE FROM gig WHERE id <> ? AND id IN (SELECT value FROM json_each(?))", (first.id, ids)
    )
    settle(connection, [first.id])
    return first.id


def _joined(found: Sequence[Gig]) -> tuple[object, ...]:
    """Of several gigs in order, what the one of them has: its end, name, kind, venue, note, and whether it is
    practice, as it is only where all of them are.
    """
    facts = [gig.facts for gig in found]
    ends = [
        (each.ended_at, each.ended_offset_min) if each.ended_at else (each.began_at, each.began_offset_min)
        for each in facts
        if each.timed
    ]
    notes = "\n".join(each.note for each in facts if each.note)
    return (
        *(max(ends) if ends else (None, 0)),
        next((each.name for each in facts if each.name), ""),
        next((each.kind for each in facts if each.kind), ""),
        next((each.venue_id for each in facts if each.venue_id), None),
        notes,
        all(gig.practice for gig in found),
    )


def split_gig(connection: sqlite3.Connection, gig_id: int, play_id: int) -> int:
    """Make a gig of its own of what was played from a play on; returns its id.

    Raises:
        LibraryError: if nothing was played before it.
    """
    gig = get_gig(connection, gig_id)
    rows = connection.execute(
        "SELECT id, played_at, offset_min, heard_s FROM play WHERE gig_id = ? ORDER BY position, id",
        (gig_id,),
    ).fetchall()
    ids = [row["id"] for row in rows]
    if play_id not in ids or ids[0] == play_id:
        raise LibraryError("Nothing was played before this: there is nothing to split.")
    at = ids.index(play_id)
    before, later = rows[at - 1], rows[at]
    facts = {name: getattr(gig.facts, name) for name in COLUMNS}
    begins = {"began_at": later["played_at"], "began_offset_min": later["offset_min"]}
    new = make_gig(connection, Facts(**{**facts, **begins}))
    connection.execute(
        "UPDATE play SET gig_id = ? WHERE id IN (SELECT value FROM json_each(?))", (new, json.dumps(ids[at:]))
    )
    if gig.facts.timed:
        end_s = seconds(before["played_at"]) + (before["heard_s"] or 0.0)
        end = min(from_seconds(end_s), later["played_at"])
        connection.execute(
            "UPDATE gig SET ended_at = ?, ended_offset_min = ? WHERE id = ?",
            (end, before["offset_min"], gig_id),
        )
    settle(connection, [gig_id, new])
    return new


def order(connection: sqlite3.Connection, play_ids: Sequence[int]) -> None:
    """Give plays the places of this order."""
    connection.executemany(
        "UPDATE play SET position = ? WHERE id = ?",
        zip(keys_between(None, None, len(play_ids)), play_ids, strict=True),
    )


def tracks_of(connection: sqlite3.Connection, gig_ids: Iterable[int]) -> list[int]:
    """The tracks that were played at gigs."""
    rows = connection.execute(
        """SELECT DISTINCT track_id FROM play
           WHERE gig_id IN (SELECT value FROM json_each(?)) AND track_id IS NOT NULL""",
        (json.dumps(list(gig_ids)),),
    )
    return [row[0] for row in rows]


def settle(connection: sqlite3.Connection, gig_ids: Iterable[int]) -> None:
    """Write anew what lists show of the tracks that were played at gigs."""
    flat.settle(connection, tracks_of(connection, gig_ids), ["play"])


def _move_plays(connection: sqlite3.Connection, gig_id: int, by_s: float) -> None:
    facts = get_gig(connection, gig_id).facts
    rows = connection.execute("SELECT id, played_at FROM play WHERE gig_id = ?", (gig_id,)).fetchall()
    moved = [(from_seconds(seconds(row["played_at"]) + by_s), row["id"]) for row in rows]
    connection.executemany(
        "UPDATE play SET played_at = ?, offset_min = ? WHERE id = ?",
        [(at, facts.offset_at(at), play_id) for at, play_id in moved],
    )


def _query(where: str) -> str:
    """Gigs with what is counted of their plays; those that are wanted by their ids."""
    return f"""WITH wanted AS MATERIALIZED (SELECT * FROM gig g {where}),
               counted AS (
                 SELECT gig_id, count(*) AS tracks, sum(went = 'well') AS went_well,
                        sum(track_id IS NULL OR track_id IN (SELECT track_id FROM off_shelf)) AS
                        not_here, avg(heard_s) AS heard_s
                 FROM play WHERE gig_id IN (SELECT id FROM wanted) GROUP BY gig_id)
               SELECT wanted.*, tracks, went_well, not_here, heard_s
               FROM wanted LEFT JOIN counted ON counted.gig_id = wanted.id
               ORDER BY began_at DESC, wanted.id DESC"""


def _gig(row: sqlite3.Row) -> Gig:
    facts = Facts(
        row["began_at"], row["venue_id"], row["name"], row["kind"], row["ended_at"], bool(row["timed"]),
        row["note"], row["came_from"], row["began_offset_min"], row["ended_offset_min"],
    )  # fmt: skip
    tracks = row["tracks"] or 0
    return Gig(
        row["id"], facts, bool(row["practice"]), tracks, row["went_well"] or 0, row["not_here"] or 0,
        _practice(facts, tracks, row["heard_s"]),
    )  # fmt: skip


def _practice(facts: Facts, tracks: int, heard_s: float | None) -> tuple[str, ...]:
    """Why a gig looks like practice. What was given a venue or was typed by hand was looked at."""
    if facts.venue_id is not None or facts.came_from != "a stick" or facts.name or facts.kind:
        return ()
    length_s = seconds(facts.ended_at) - seconds(facts.began_at) if facts.ended_at else None
    return why_practice(tracks, length_s, heard_s)
