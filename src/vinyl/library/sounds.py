"""Which tracks may hold a sound, by the names that were kept of theirs: surely, or worth a closer look."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class KnownSound:
    """A track's file and what is kept of its sound: a name of a few pieces, one of all packets."""

    track_id: int
    path: str
    sampled_hash: str | None
    packet_hash: str | None


COLUMNS = "id, path, sampled_hash, packet_hash"


def of_track(connection: sqlite3.Connection, track_id: int) -> KnownSound:
    """What is kept of one track's sound."""
    row = connection.execute(f"SELECT {COLUMNS} FROM track WHERE id = ?", (track_id,)).fetchone()
    return KnownSound(*row)


@dataclass(frozen=True, slots=True)
class Sought:
    """A sound that is looked for, with what is known of its file."""

    sampled_hash: str | None
    packet_hash: str | None
    size_bytes: int
    codec: str
    duration_s: float


# Sounds without a common name are compared if their lengths differ by less.
SAME_LENGTH_S = 0.1


def perhaps_same(connection: sqlite3.Connection, sought: Sought) -> list[KnownSound]:
    """Tracks that may hold a sound: those with one of its names; those of an equally large file that have no
    name by pieces; and, for a sound that has none, those of its length that were never read whole.
    """
    rows = connection.execute(
        f"""SELECT {COLUMNS} FROM track WHERE sampled_hash = ?1
            UNION SELECT {COLUMNS} FROM track WHERE packet_hash = ?2
            UNION SELECT {COLUMNS} FROM track WHERE sampled_hash IS NULL AND size_bytes = ?3 AND ?2 IS NULL
            UNION SELECT {COLUMNS} FROM track WHERE ?1 IS NULL AND packet_hash IS NULL AND codec = ?4
              AND duration_s BETWEEN ?5 - ?6 AND ?5 + ?6
            ORDER BY id""",
        (
            sought.sampled_hash,
            sought.packet_hash,
            sought.size_bytes,
            sought.codec,
            sought.duration_s,
            SAME_LENGTH_S,
        ),
    )
    return [KnownSound(*row) for row in rows]


def perhaps_known(connection: sqlite3.Connection, sounds: Mapping[str, int]) -> set[str]:
    """Of sounds that were not read whole, by name and size of their file, those that a track may hold."""
    rows = connection.execute(
        """SELECT s.key FROM json_each(?) s WHERE EXISTS (SELECT 1 FROM track WHERE sampled_hash = s.key)
             OR EXISTS (SELECT 1 FROM track WHERE sampled_hash IS NULL AND size_bytes = s.value)""",
        (json.dumps(dict(sounds)),),
    )
    return {row[0] for row in rows}


def keep_packet_hash(connection: sqlite3.Connection, track_id: int, packet_hash: str) -> None:
    """Keep the name of all packets, once they were read."""
    connection.execute("UPDATE track SET packet_hash = ? WHERE id = ?", (packet_hash, track_id))
