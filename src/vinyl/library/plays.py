"""When tracks were played."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from vinyl.library import flat


@dataclass(frozen=True, slots=True)
class Told:
    """A play that a player has written down: the track, when it began, and what the player calls it."""

    track_id: int
    played_at: str
    told_as: str


def note(connection: sqlite3.Connection, track_ids: Sequence[int], played_at: str) -> None:
    """Note by hand that tracks were played."""
    connection.execute(
        "INSERT INTO play (track_id, played_at, source) "
        "SELECT t.id, ?, 'by hand' FROM json_each(?) i JOIN track t ON t.id = i.value",
        (played_at, json.dumps(list(track_ids))),
    )
    flat.settle(connection, track_ids, ["play"])


def take_last(connection: sqlite3.Connection, track_ids: Sequence[int]) -> int:
    """Forget the newest play of each track that was noted by hand; returns how many there were."""
    gone = connection.execute(
        """DELETE FROM play WHERE id IN (
             SELECT id FROM (SELECT id, max(played_at) FROM play WHERE source = 'by hand'
                             AND track_id IN (SELECT value FROM json_each(?)) GROUP BY track_id))""",
        (json.dumps(list(track_ids)),),
    ).rowcount
    flat.settle(connection, track_ids, ["play"])
    return gone


def take_in(connection: sqlite3.Connection, told: Iterable[Told]) -> int:
    """Keep what a player has told, each play once; returns how many were new."""
    new = [
        each.track_id
        for each in told
        if connection.execute(
            """INSERT INTO play (track_id, played_at, source, told_as)
               SELECT id, ?2, 'player', ?3 FROM track WHERE id = ?1 ON CONFLICT (told_as) DO NOTHING""",
            (each.track_id, each.played_at, each.told_as),
        ).rowcount
        > 0
    ]
    flat.settle(connection, set(new), ["play"])
    return len(new)
