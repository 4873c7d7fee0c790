"""What comes from another library, while it is reviewed: tracks, differences, lists and plays, in a file."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vinyl.exchange.coming import Difference

TABLES = """
CREATE TABLE IF NOT EXISTS head (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS came (
  n INTEGER PRIMARY KEY, key TEXT NOT NULL, path TEXT NOT NULL, title TEXT NOT NULL, artist TEXT NOT NULL,
  track_id INTEGER, state TEXT NOT NULL, file TEXT, told TEXT NOT NULL, reason TEXT NOT NULL
);
CREATE INDEX IF NOT EXISTS came_key ON came (key);
CREATE INDEX IF NOT EXISTS came_state ON came (state);
CREATE TABLE IF NOT EXISTS diff (
  id INTEGER PRIMARY KEY, track_id INTEGER NOT NULL, track TEXT NOT NULL, kind TEXT NOT NULL,
  what TEXT NOT NULL, here TEXT NOT NULL, there TEXT NOT NULL, rule TEXT NOT NULL, note TEXT NOT NULL,
  choice TEXT NOT NULL,
  ways TEXT NOT NULL, value TEXT NOT NULL
);
CREATE INDEX IF NOT EXISTS diff_kind ON diff (kind, choice);
CREATE INDEX IF NOT EXISTS diff_track ON diff (track_id);
"""
LONGEST_SAID = 300


@dataclass(frozen=True, slots=True)
class Came:
    """A track of another library, and where it is here."""

    key: str
    path: str
    title: str
    artist: str
    track_id: int | None
    state: str
    file: str | None
    told: str
    reason: str


@dataclass(frozen=True, slots=True)
class Row:
    """A difference as it is reviewed."""

    id: int
    track_id: int
    track: str
    kind: str
    what: str
    here: str
    there: str
    rule: str
    note: str
    choice: str
    ways: tuple[str, ...]
    value: str


class Review:
    """The file. It belongs to the job that looked."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self.db = sqlite3.connect(path, isolation_level=None, check_same_thread=False, timeout=10)
        self.db.row_factory = sqlite3.Row
        self.db.execute("PRAGMA journal_mode = WAL")
        self.db.execute("PRAGMA synchronous = OFF")
        self.db.executescript(TABLES)

    def close(self) -> None:
        self.db.close()

    def clear(self) -> None:
        """Begin anew."""
        for table in ("head", "came", "diff"):
            self.db.execute(f"DELETE FROM {table}")

    def put(self, name: str, value: Any) -> None:
        """Keep a thing that there is one of."""
        text = json.dumps(value, ensure_ascii=False)
        self.db.execute("INSERT OR REPLACE INTO head VALUES (?, ?)", (name, text))

    def get(self, name: str, otherwise: Any = None) -> Any:
        row = self.db.execute("SELECT value FROM head WHERE name = ?", (name,)).fetchone()
        return json.loads(row[0]) if row else otherwise

    def put_came(self, rows: Iterable[Came]) -> None:
        self.db.executemany(
            "INSERT INTO came (key, path, title, artist, track_id, state, file, told, reason) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (
                (r.key, r.path, r.title, r.artist, r.track_id, r.state, r.file, r.told, r.reason)
                for r in rows
            ),
        )  # fmt: skip

    def put_differences(self, track_id: int, track: str, found: Sequence[Difference]) -> None:
        self.db.executemany(
            "INSERT INTO diff (track_id, track, kind, what, here, there, rule, note, choice, ways, value) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (
                (track_id, track, d.kind, d.what, d.here[:LONGEST_SAID], d.there[:LONGEST_SAID],
                 d.rule[:LONGEST_SAID], d.note, d.choice, ",".join(d.ways), d.value)
                for d in found
            ),
        )  # fmt: skip

    def choose(self, choice: str, kind: str | None, ids: Sequence[int] | None) -> int:
        """Answer for all differences of a kind, or for some; those without that answer stay. Returns how
        many.
        """
        cursor = self.db.execute(
            """UPDATE diff SET choice = ?1 WHERE instr(',' || ways || ',', ',' || ?1 || ',')
                 AND (?2 IS NULL OR kind = ?2)
                 AND (?3 IS NULL OR id IN (SELECT value FROM json_each(?3)))""",
            (choice, kind, None if ids is None else json.dumps(list(ids))),
        )
        return cursor.rowcount


def kinds_of(path: Path) -> list[tuple[str, str, int, int]]:
    """Kinds of differences with the answers that are chosen: kind, choice, values, tracks."""
    with closing(_open(path)) as read:
        rows = read.execute(
            "SELECT kind, choice, count(*), count(DISTINCT track_id) FROM diff GROUP BY 1, 2 ORDER BY 1, 2"
        )
        return [tuple(row) for row in rows]


def rows_of(path: Path, kind: str | None, words: str, offset: int, limit: int) -> tuple[int, list[Row]]:
    """Differences of a kind, and how many there are."""
    where = "(?1 IS NULL OR kind = ?1) AND (?2 = '' OR instr(lower(track), ?2) OR instr(lower(there), ?2))"
    values = (kind, words.lower())
    with closing(_open(path)) as read:
        count = read.execute(f"SELECT count(*) FROM diff WHERE {where}", values).fetchone()[0]
        select = f"SELECT * FROM diff WHERE {where} ORDER BY track, id LIMIT ?3 OFFSET ?4"
        rows = read.execute(select, (*values, limit, offset))
        return count, [Row(**{**dict(row), "ways": tuple(row["ways"].split(","))}) for row in rows]


def states_of(path: Path) -> dict[str, int]:
    """How many tracks are here, on the disk, or nowhere."""
    with closing(_open(path)) as read:
        return dict(read.execute("SELECT state, count(*) FROM came GROUP BY state").fetchall())


def came_of(path: Path, state: str, offset: int, limit: int) -> list[Came]:
    """Tracks of a state."""
    with closing(_open(path)) as read:
        rows = read.execute(
            "SELECT key, path, title, artist, track_id, state, file, told, reason FROM came WHERE state = ? "
            "ORDER BY n LIMIT ? OFFSET ?",
            (state, limit, offset),
        )
        return [Came(**dict(row)) for row in rows]


def head_of(path: Path, name: str) -> Any:
    """A thing that a review keeps one of."""
    with closing(_open(path)) as read:
        row = read.execute("SELECT value FROM head WHERE name = ?", (name,)).fetchone()
        return json.loads(row[0]) if row else None


def _open(path: Path) -> sqlite3.Connection:
    read = sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)
    read.row_factory = sqlite3.Row
    return read
