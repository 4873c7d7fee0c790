"""What one carrying has in hand, in a file of its own: cards, what became of values, what was read back."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vinyl.core.carrying.outcomes import Outcome

TABLES = """
CREATE TABLE IF NOT EXISTS head (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS card (
  n INTEGER PRIMARY KEY, key TEXT NOT NULL UNIQUE, path_key TEXT NOT NULL UNIQUE, path TEXT NOT NULL,
  title TEXT NOT NULL, told TEXT NOT NULL, marks TEXT NOT NULL, state TEXT NOT NULL,
  done INTEGER NOT NULL DEFAULT 0
);
CREATE TABLE IF NOT EXISTS theirs (
  n INTEGER PRIMARY KEY, key TEXT NOT NULL UNIQUE, path_key TEXT NOT NULL, told TEXT NOT NULL,
  used INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX IF NOT EXISTS theirs_path ON theirs (path_key);
CREATE TABLE IF NOT EXISTS outcome (
  id INTEGER PRIMARY KEY, n INTEGER, track TEXT NOT NULL, kind TEXT NOT NULL, fate TEXT NOT NULL,
  what TEXT NOT NULL, here TEXT NOT NULL, there TEXT NOT NULL, why TEXT NOT NULL, option TEXT NOT NULL,
  off_ms REAL NOT NULL
);
CREATE INDEX IF NOT EXISTS outcome_kind ON outcome (kind, fate);
CREATE TABLE IF NOT EXISTS finding (
  id INTEGER PRIMARY KEY, track TEXT NOT NULL, what TEXT NOT NULL, promised TEXT NOT NULL, found TEXT NOT NULL
);
"""
LONGEST_SAID = 300


@dataclass(frozen=True, slots=True)
class Said:
    """A row of the ledger: an outcome and the track that it is of."""

    track: str
    outcome: Outcome


@dataclass(frozen=True, slots=True)
class Finding:
    """A value that was read back and is not what was promised."""

    track: str
    what: str
    promised: str
    found: str


class Desk:
    """The file. It belongs to one job, and is thrown away with it."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self.path = path
        self.db = sqlite3.connect(path, isolation_level=None, check_same_thread=False)
        self.db.row_factory = sqlite3.Row
        self.db.execute("PRAGMA journal_mode = WAL")
        self.db.execute("PRAGMA synchronous = OFF")
        self.db.executescript(TABLES)

    def close(self) -> None:
        self.db.close()

    def clear(self) -> None:
        """Begin anew."""
        for table in ("head", "card", "theirs", "outcome", "finding"):
            self.db.execute(f"DELETE FROM {table}")

    def put(self, name: str, value: Any) -> None:
        """Keep a thing that there is one of."""
        self.db.execute("INSERT OR REPLACE INTO head VALUES (?, ?)", (name, json.dumps(value)))

    def get(self, name: str, otherwise: Any = None) -> Any:
        row = self.db.execute("SELECT value FROM head WHERE name = ?", (name,)).fetchone()
        return json.loads(row[0]) if row else otherwise

    def put_theirs(self, cards: Iterable[tuple[str, str, str]]) -> None:
        """Keep what the other library has: key, path key and card of each."""
        self.db.executemany("INSERT OR IGNORE INTO theirs (key, path_key, told) VALUES (?, ?, ?)", cards)

    def put_outcomes(self, n: int | None, track: str, outcomes: Sequence[Outcome]) -> None:
        self.db.executemany(
            "INSERT INTO outcome (n, track, kind, fate, what, here, there, why, option, off_ms) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (
                (n, track, o.kind, o.fate, o.what[:LONGEST_SAID], o.here[:LONGEST_SAID],
                 o.there[:LONGEST_SAID], o.why, o.option, o.off_ms)
                for o in outcomes
            ),
        )  # fmt: skip

    def cards(self) -> Iterator[sqlite3.Row]:
        """Cards as they will be there, ours first, then what stays of theirs: key, path key, told."""
        return iter(
            self.db.execute(
                """SELECT 0 AS part, n, key, told, path, title, done FROM card
                   UNION ALL SELECT 1, n, key, told, '', '', 1 FROM theirs WHERE NOT used ORDER BY 1, 2"""
            )
        )

    def put_findings(self, findings: Iterable[Finding]) -> None:
        self.db.executemany(
            "INSERT INTO finding (track, what, promised, found) VALUES (?, ?, ?, ?)",
            (
                (f.track, f.what, f.promised[:LONGEST_SAID], f.found[:LONGEST_SAID])
                for f in findings
            ),
        )  # fmt: skip


def read_head(path: Path, names: Sequence[str]) -> Mapping[str, Any]:
    """Some of what a desk keeps one of."""
    with closing(_open(path)) as read:
        rows = read.execute(
            "SELECT name, value FROM head WHERE name IN (SELECT value FROM json_each(?))",
            (json.dumps(names),),
        )
        return {row["name"]: json.loads(row["value"]) for row in rows}


def list_said(
    path: Path, kind: str, fate: str | None, words: str, offset: int, limit: int
) -> tuple[int, list[Said]]:
    """Rows of the ledger of a kind, and how many there are of it."""
    where = """kind = ?1 AND (?2 IS NULL OR fate = ?2)
      AND (?3 = '' OR instr(lower(track), ?3) OR instr(lower(what), ?3))"""
    values = (kind, fate, words.lower())
    with closing(_open(path)) as read:
        count = read.execute(f"SELECT count(*) FROM outcome WHERE {where}", values).fetchone()[0]
        rows = read.execute(
            f"SELECT * FROM outcome WHERE {where} ORDER BY fate DESC, id LIMIT ?4 OFFSET ?5",
            (*values, limit, offset),
        )
        return count, [
            Said(
                r["track"],
                Outcome(
                    r["kind"], r["fate"], r["what"], r["here"], r["there"], r["why"], r["option"], r["off_ms"]
                ),
            )
            for r in rows
        ]


def list_findings(path: Path, offset: int, limit: int) -> tuple[int, list[Finding]]:
    """What was not read back as promised, and how many there are."""
    with closing(_open(path)) as read:
        count = read.execute("SELECT count(*) FROM finding").fetchone()[0]
        rows = read.execute(
            "SELECT track, what, promised, found FROM finding ORDER BY id LIMIT ? OFFSET ?", (limit, offset)
        )
        return count, [Finding(**dict(row)) for row in rows]


def _open(path: Path) -> sqlite3.Connection:
    read = sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)
    read.row_factory = sqlite3.Row
    return read
