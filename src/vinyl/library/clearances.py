"""Clearances of tracks: whether each may be published within a recording, who said so, and when."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping

from vinyl.core.planning.clearance import Ruling, parse_places


def clearances(connection: sqlite3.Connection, track_ids: Iterable[int]) -> dict[int, Ruling]:
    """What is known of tracks; nothing of those that are left out."""
    rows = connection.execute(
        "SELECT * FROM track_clearance WHERE track_id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(track_ids)),),
    )
    return {row["track_id"]: _ruling(row) for row in rows}


def _ruling(row: sqlite3.Row) -> Ruling:
    return Ruling(row["state"], parse_places(row["places"]), row["condition"], row["source"], row["on_day"])


def put(connection: sqlite3.Connection, rulings: Mapping[int, Ruling]) -> int:
    """Keep what is said of tracks in place of what was; what is unknown is forgotten. Returns of how many
    that changed something.
    """
    before = clearances(connection, rulings)
    changed = {each: ruling for each, ruling in rulings.items() if before.get(each, Ruling()) != ruling}
    for track_id, ruling in changed.items():
        connection.execute("DELETE FROM track_clearance WHERE track_id = ?", (track_id,))
        if ruling.state != "unknown":
            connection.execute(
                """INSERT INTO track_clearance (track_id, state, places, condition, source, on_day)
                   VALUES (?, ?, ?, ?, ?, ?)""",
                (
                    track_id,
                    ruling.state,
                    ", ".join(ruling.places),
                    ruling.condition,
                    ruling.source,
                    ruling.on_day,
                ),
            )
    return len(changed)
