"""The folders in which the files of tracks lie: how many tracks are in and below each."""

from __future__ import annotations

import json
import os
import sqlite3
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vinyl.core.rules.conditions import under

# Of paths below a folder; "0" is the letter after "/".
BELOW = "path >= ? AND path < ?"


@dataclass(frozen=True, slots=True)
class Held:
    """How many tracks on the Shelf lie in a folder itself, and below each folder in it, by its name."""

    here: int
    within: dict[str, int]


def held_in(connection: sqlite3.Connection, folder: str) -> Held:
    """Count the tracks of a folder."""
    begin = under(folder)
    rows = connection.execute(
        f"""SELECT iif(instr(rest, '/'), substr(rest, 1, instr(rest, '/') - 1), '') AS name, count(*)
            FROM (SELECT substr(path, ?) AS rest FROM track WHERE {BELOW}
                  AND id NOT IN (SELECT track_id FROM off_shelf))
            GROUP BY name""",
        (len(begin) + 1, *_range(begin)),
    )
    within = dict(rows.fetchall())
    return Held(within.pop("", 0), within)


def count_below(connection: sqlite3.Connection, folder: str) -> int:
    """How many tracks on the Shelf lie in a folder, however deep."""
    return int(
        connection.execute(
            f"SELECT count(*) FROM track WHERE {BELOW} AND id NOT IN (SELECT track_id FROM off_shelf)",
            _range(under(folder)),
        ).fetchone()[0]
    )


def top_folders(connection: sqlite3.Connection) -> list[str]:
    """The folders below which all files lie, one for each part of the disk, as deep as they can be."""
    whole = _common(connection, "/")
    if whole is None or whole != "/":
        return [whole] if whole else []
    return list(_tops(connection))


def known_names(connection: sqlite3.Connection, folder: str, names: Collection[str]) -> set[str]:
    """Those of some names of files in a folder that are of tracks, off the Shelf too, or copies of them."""
    paths = json.dumps([f"{under(folder)}{name}" for name in names])
    rows = connection.execute(
        "WITH asked (path) AS (SELECT value FROM json_each(?)) SELECT path FROM asked "
        "WHERE path IN (SELECT path FROM track) OR path IN (SELECT path FROM track_copy)",
        (paths,),
    )
    return {Path(row[0]).name for row in rows}


def _tops(connection: sqlite3.Connection) -> Iterator[str]:
    """The common folder of what lies in each folder of the root."""
    passed = "/"
    while (first := _one(connection, "SELECT min(path) FROM track WHERE path >= ?", passed)) is not None:
        top = f"/{first.split('/')[1]}"
        yield _common(connection, top) or "/"
        passed = f"{top}0"


def _common(connection: sqlite3.Connection, folder: str) -> str | None:
    """The deepest folder that holds all files below one: that of the first and the last."""
    ends = [
        _one(connection, f"SELECT {end}(path) FROM track WHERE {BELOW}", *_range(under(folder)))
        for end in ("min", "max")
    ]
    return os.path.commonpath([Path(path).parent for path in ends]) if ends[0] else None


def _range(begin: str) -> tuple[str, str]:
    return begin, f"{begin[:-1]}0"


def _one(connection: sqlite3.Connection, sql: str, *values: str) -> Any:
    return connection.execute(sql, values).fetchone()[0]
