"""Which sticks Vinyl knows, which crates each shall carry, and the runs that packed them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

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
    own_files: frozenset[str] = frozenset()


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
    wanted = json.dumps(list(crate_ids))
    connection.execute(
        "DELETE FROM stick_crate WHERE stick_id = ? AND crate_id NOT IN (SELECT value FROM json_each(?))",
        (stick_id, wanted),
    )
    try:
        connection.execute(
            "INSERT OR IGNORE INTO stick_crate (stick_id, crate_id) SELECT ?, value FROM json_each(?) "
            "WHERE value NOT IN (SELECT id FROM crate WHERE is_folder)",
            (stick_id, wanted),
        )
    except sqlite3.IntegrityError as error:
        raise NotFoundError("One of these crates is no longer there.") from error


def _from_row(connection: sqlite3.Connection, row: sqlite3.Row) -> Stick:
    crates = connection.execute(
        "SELECT s.crate_id FROM stick_crate s JOIN crate c ON c.id = s.crate_id "
        "WHERE s.stick_id = ? ORDER BY c.position",
        (row["id"],),
    )
    own = connection.execute("SELECT path FROM stick_file WHERE stick_id = ?", (row["id"],))
    return Stick(
        id=row["id"],
        name=row["name"],
        medium=Medium(Path(row["folder"])),
        profile=get_profile(row["profile"]),
        crate_ids=tuple(crate[0] for crate in crates),
        own_files=frozenset(path[0] for path in own),
    )
