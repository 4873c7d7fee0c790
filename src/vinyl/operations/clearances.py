"""The clearance of a set: asked of a register, read from a table, said by hand, and shown."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from vinyl.core.planning.clearance import BY_HAND, Publication, Ruling, publication
from vinyl.exchange.rights.register import Register
from vinyl.exchange.rights.table import Recording, read_rulings, write_rulings
from vinyl.library import clearances, find, set_planning, tracks
from vinyl.library.clock import today
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.operations.words import many


@dataclass(frozen=True, slots=True)
class Line:
    """A track of a running order, when it begins, and what is known of its rights; ``track_id`` is None for
    what is not on the Shelf.
    """

    track_id: int | None
    at_s: float
    recording: Recording
    ruling: Ruling


@dataclass(frozen=True, slots=True)
class Clearance:
    """Of a set as it stands: whether its recording may be published, and each track's part in that."""

    set_name: str
    publication: Publication
    lines: tuple[Line, ...]


@dataclass(frozen=True, slots=True)
class Taken:
    """What came of asking: tracks of which something else is known now, those of which nothing was said,
    those that were said by hand and stay so, and what of a table was not understood.
    """

    changed: int
    not_known: int
    by_hand: int
    notes: tuple[str, ...] = ()


def read_clearance(connection: sqlite3.Connection, set_id: int) -> Clearance:
    """What is known of the tracks of a set's running order.

    Raises:
        NotFoundError: if it is gone.
    """
    plan = set_planning.read_plan(connection, set_id)
    ids = [each.entry.track_id for each in plan.placed if each.entry.track_id and each.entry.on_shelf]
    codes = {row["id"]: row["isrc"] for row in find.get_rows(connection, ids)}
    said = clearances.clearances(connection, ids)
    lines = [
        Line(
            entry.track_id if entry.on_shelf else None,
            each.begins_s,
            Recording(entry.artist, entry.title, codes.get(entry.track_id or 0, "")),
            said.get(entry.track_id or 0, Ruling()),
        )
        for each in plan.placed
        for entry in [each.entry]
    ]
    return Clearance(plan.set.name, publication([line.ruling for line in lines]), tuple(lines))


def ask(database: Database, set_id: int, register: Register) -> Taken:
    """Ask a register about all tracks of a set; what was said by hand stays."""
    found = read_clearance(database.read(), set_id)
    rulings = register.ask(_recordings(found))
    dated = {each: replace(ruling, source=register.name) for each, ruling in rulings.items()}
    return _take(database, f"Ask the rights register about “{found.set_name}”", found, dated)


def read_table(database: Database, set_id: int, text: str, source: str) -> Taken:
    """Take rulings from a table that somebody sent; what was said by hand stays.

    Raises:
        ListError: if it is no table of rulings.
    """
    table = read_rulings(text, source)
    found = read_clearance(database.read(), set_id)
    said = {each: table.of(recording) for each, recording in _recordings(found).items()}
    rulings = {each: ruling for each, ruling in said.items() if ruling is not None}
    taken = _take(database, f"Take the clearance of “{found.set_name}” from a table", found, rulings)
    return replace(taken, notes=table.notes)


def _recordings(found: Clearance) -> dict[int, Recording]:
    return {line.track_id: line.recording for line in found.lines if line.track_id is not None}


def _take(database: Database, what: str, found: Clearance, rulings: Mapping[int, Ruling]) -> Taken:
    own = {line.track_id for line in found.lines if line.ruling.source == BY_HAND}
    new = {each: ruling for each, ruling in rulings.items() if each not in own}
    with database.write(what) as connection:
        changed = clearances.put(connection, new)
    return Taken(changed, len(_recordings(found).keys() - rulings.keys()), len(rulings.keys() & own))


def say(database: Database, track_ids: Sequence[int], ruling: Ruling) -> None:
    """Say by hand what is known of tracks.

    Raises:
        LibraryError: if none of them is on the Shelf.
    """
    ids = tracks.existing(database.read(), track_ids)
    if not ids:
        raise LibraryError("None of these tracks is on the Shelf.")
    by_hand = replace(ruling, source=BY_HAND, on_day=str(today()))
    if ruling.state == "unknown":
        by_hand = Ruling()
    with database.write(f"Say whether {many(ids)} may be published") as connection:
        clearances.put(connection, dict.fromkeys(ids, by_hand))


def as_table(connection: sqlite3.Connection, set_id: int) -> tuple[str, str]:
    """The set's name, and what is known as a table that can be read again."""
    found = read_clearance(connection, set_id)
    return found.set_name, write_rulings((line.recording, line.ruling) for line in found.lines)
