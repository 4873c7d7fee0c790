"""Saltmarsh's own reader."""

from __future__ import annotations

import sqlite3
import struct
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any


def tracks(database: Path) -> Iterator[dict[str, Any]]:
    """The tracks of a database by their numbers."""
    read = sqlite3.connect(f"file:{database.absolute().as_posix().replace('?', '%3f')}?mode=ro", uri=True)
    try:
        for number, path, beats in read.execute("SELECT id, path, beats FROM track ORDER BY id").fetchall():
            yield {
                "path": path,
                "words": dict(
                    read.execute("SELECT name, text FROM word WHERE track = ? ORDER BY name", (number,))
                ),
                **_beats(beats),
                "points": _points(read, number),
                "tags": [
                    text
                    for (text,) in read.execute(
                        "SELECT text FROM label WHERE track = ? ORDER BY place", (number,)
                    )
                ],
            }
    finally:
        read.close()


def lists(database: Path) -> list[dict[str, Any]]:
    """Folders and lists, with the numbers of their tracks."""
    read = sqlite3.connect(database)
    try:
        return _within(read, None)
    finally:
        read.close()


def _within(read: sqlite3.Connection, parent: int | None) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    rows = read.execute("SELECT id, name, is_folder FROM list WHERE parent IS ? ORDER BY place", (parent,))
    for number, name, is_folder in rows.fetchall():
        if is_folder:
            found.append({"name": name, "lists": _within(read, number)})
            continue
        held = read.execute("SELECT track FROM in_list WHERE list = ? ORDER BY place", (number,))
        found.append({"name": name, "tracks": [str(track) for (track,) in held]})
    return found


def _beats(blob: bytes | None) -> dict[str, Any]:
    if blob is None:
        return {"steps": [], "beats_per_bar": 4, "settled": False}
    data = zlib.decompress(blob)
    count, bar, settled = struct.unpack("<IBB", data[4:10])
    steps = [list(struct.unpack("<3d", data[10 + 24 * n : 34 + 24 * n])) for n in range(count)]
    return {"steps": steps, "beats_per_bar": bar, "settled": bool(settled)}


def _points(read: sqlite3.Connection, number: int) -> list[list[Any]]:
    rows = read.execute(
        """SELECT 'list', place, at, length, name, rgb, engages FROM point WHERE track = ?1
           UNION ALL SELECT 'quick', number, at, length, name, rgb, engages FROM quick WHERE track = ?1
           ORDER BY 3, 4, 1, 2""",
        (number,),
    )
    return [[*row[:6], bool(row[6])] for row in rows]
