"""What a transaction changes, noted while it changes it: temporary triggers on the writer's connection write
down which declared tables, and which tracks of the lists' table, so that no caller has to say it.
"""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from vinyl.library.tables import TABLES, Topic, topics_of

# Longer lists of tracks are not told one by one: any may be different then.
MOST_TOLD = 2000
# Of these topics it is told which tracks they are about.
OF_TRACKS = frozenset({"tracks", "added", "waveforms", "undo"})
EVENTS = ("INSERT", "UPDATE", "DELETE")


@dataclass(frozen=True, slots=True)
class Change:
    """Something in the library is different from ``revision`` on.

    Attributes:
        track_ids: the tracks whose rows in lists may be different; None where any may be.
        background: whether it was done by the program and not by hand: it may be shown a little later.
    """

    revision: int
    topics: tuple[Topic, ...]
    track_ids: tuple[int, ...] | None = None
    background: bool = False


def watch(connection: sqlite3.Connection) -> None:
    """Begin to note what is changed on a connection."""
    connection.execute("CREATE TEMP TABLE changed_table (name TEXT PRIMARY KEY) WITHOUT ROWID")
    connection.execute("CREATE TEMP TABLE changed_track (id INTEGER PRIMARY KEY)")
    for table in TABLES:
        for event in EVENTS if table.topics else ():
            connection.execute(_trigger(table.name, event))


def _trigger(table: str, event: str) -> str:
    row = "OLD" if event == "DELETE" else "NEW"
    # Upserts, for OR IGNORE within a trigger gives way to how the outer statement meets conflicts.
    track = (
        f"INSERT INTO changed_track VALUES ({row}.id) ON CONFLICT DO NOTHING; " if table == "shelf" else ""
    )
    return (
        f"CREATE TEMP TRIGGER changed_{table}_{event.lower()} AFTER {event} ON main.{table} BEGIN "
        f"{track}INSERT INTO changed_table VALUES ('{table}') ON CONFLICT DO NOTHING; END"
    )


def take(connection: sqlite3.Connection) -> tuple[tuple[Topic, ...], tuple[int, ...] | None]:
    """The topics and tracks that were noted since this was asked last."""
    topics = topics_of(frozenset(row[0] for row in connection.execute("SELECT name FROM temp.changed_table")))
    if not topics:
        return (), None
    rows = connection.execute("SELECT id FROM temp.changed_track LIMIT ?", (MOST_TOLD + 1,)).fetchall()
    connection.execute("DELETE FROM temp.changed_table")
    connection.execute("DELETE FROM temp.changed_track")
    named = OF_TRACKS.issuperset(topics) and len(rows) <= MOST_TOLD
    return topics, tuple(row[0] for row in rows) if named else None
