"""Which sticks Vinyl knows, which crates each shall carry, and the runs that packed them."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from vinyl.library.database import now
from vinyl.library.errors import NotFoundError
from vinyl.sticks.errors import StickError
from vinyl.sticks.medium import Medium
from vinyl.sticks.profiles import Profile, get_profile


@dataclass(frozen=True, slots=True)
class Stick:
    """A stick as Vinyl knows it."""

    id: int
    name: str
    medium: Medium
    profile: Profile
    crate_ids: tuple[int, ...]


def list_sticks(connection: sqlite3.Connection) -> list[Stick]:
    """All known sticks by name."""
    return [
        _from_row(connection, row)
        for row in connection.execute("SELECT * FROM stick ORDER BY name COLLATE NOCASE")
    ]


def get_stick(connection: sqlite3.Connection, stick_id: int) -> Stick:
    """One stick.

    Raises:
        NotFoundError: if Vinyl does not know it.
    """
    row = connection.execute("SELECT * FROM stick WHERE id = ?", (stick_id,)).fetchone()
    if row is None:
        raise NotFoundError("Vinyl does not know this stick (any more).")
    return _from_row(connection, row)


def add_stick(connection: sqlite3.Connection, name: str, folder: Path, profile: str) -> int:
    """Remember a stick; returns its id."""
    try:
        cursor = connection.execute(
            "INSERT INTO stick (name, folder, profile) VALUES (?, ?, ?)",
            (name, str(folder), get_profile(profile).name),
        )
    except sqlite3.IntegrityError as error:
        raise StickError(f"There is already a stick called “{name}”.") from error
    return int(cursor.lastrowid or 0)


def choose_crates(connection: sqlite3.Connection, stick_id: int, crate_ids: Sequence[int]) -> None:
    """Set which crates the stick shall carry."""
    get_stick(connection, stick_id)
    connection.execute("DELETE FROM stick_crate WHERE stick_id = ?", (stick_id,))
    try:
        connection.executemany(
            "INSERT INTO stick_crate VALUES (?, ?)", [(stick_id, i) for i in dict.fromkeys(crate_ids)]
        )
    except sqlite3.IntegrityError as error:
        raise NotFoundError("One of these crates is no longer there.") from error


def begin_run(connection: sqlite3.Connection, stick_id: int) -> int:
    """Note that packing begins; returns the run's id.

    Raises:
        StickError: if this stick is being packed already.
    """
    if connection.execute(
        "SELECT 1 FROM pack_run WHERE stick_id = ? AND state = 'running'", (stick_id,)
    ).fetchone():
        raise StickError("This stick is being packed already.")
    cursor = connection.execute(
        "INSERT INTO pack_run (stick_id, state, started_at) VALUES (?, 'running', ?)", (stick_id, now())
    )
    return int(cursor.lastrowid or 0)


def end_run(
    connection: sqlite3.Connection, run_id: int, state: str, error: str | None, summary: str | None
) -> None:
    """Note how packing ended."""
    connection.execute(
        "UPDATE pack_run SET state = ?, error = ?, summary = ?, finished_at = ? WHERE id = ?",
        (state, error, summary, now(), run_id),
    )


def last_run(connection: sqlite3.Connection, stick_id: int) -> sqlite3.Row | None:
    """The newest run of a stick."""
    row: sqlite3.Row | None = connection.execute(
        "SELECT * FROM pack_run WHERE stick_id = ? ORDER BY id DESC LIMIT 1", (stick_id,)
    ).fetchone()
    return row


def running_runs(connection: sqlite3.Connection) -> list[tuple[int, int]]:
    """(run, stick) of runs that were going on, also when the server was killed."""
    return [
        (r["id"], r["stick_id"])
        for r in connection.execute("SELECT id, stick_id FROM pack_run WHERE state = 'running' ORDER BY id")
    ]


def _from_row(connection: sqlite3.Connection, row: sqlite3.Row) -> Stick:
    crates = connection.execute(
        "SELECT s.crate_id FROM stick_crate s JOIN crate c ON c.id = s.crate_id WHERE s.stick_id = ? ORDER BY c.position",
        (row["id"],),
    )
    return Stick(
        row["id"],
        row["name"],
        Medium(Path(row["folder"])),
        get_profile(row["profile"]),
        tuple(c[0] for c in crates),
    )
