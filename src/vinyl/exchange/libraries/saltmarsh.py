"""Saltmarsh: an SQLite database beside the music (docs/formats/saltmarsh.md)."""

from __future__ import annotations

import json
import sqlite3
import struct
import zlib
from collections.abc import Iterable, Iterator, Sequence
from contextlib import closing
from datetime import datetime
from pathlib import Path
from typing import Any

from vinyl.core.carrying.card import Card, Point, Step, checked
from vinyl.core.carrying.collection import Node, Play
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.model import Branch, Told, nest
from vinyl.exchange.swapping import free_beside

FORMAT = 1
SUFFIX = ".saltmarsh.db"
MAGIC = b"SMB1"
HEAD = struct.Struct("<4sIBB")
BEAT = struct.Struct("<ddd")
LARGEST_BEATS = 4 * 1024**2
BUSY_S = 2.0
# What SQLite puts beside a database, and reads into it when it is opened.
JOURNALS = ("-wal", "-journal", "-shm")
BATCH = 500
TABLES = """
CREATE TABLE track (id INTEGER PRIMARY KEY, path TEXT NOT NULL, beats BLOB);
CREATE TABLE word (track INTEGER NOT NULL, name TEXT NOT NULL, text TEXT NOT NULL, PRIMARY KEY (track, name))
  WITHOUT ROWID;
CREATE TABLE point (track INTEGER NOT NULL, place INTEGER NOT NULL, at REAL NOT NULL, length REAL,
  name TEXT NOT NULL, rgb TEXT NOT NULL, engages INTEGER NOT NULL, PRIMARY KEY (track, place)) WITHOUT ROWID;
CREATE TABLE quick (track INTEGER NOT NULL, number INTEGER NOT NULL, at REAL NOT NULL, length REAL,
  name TEXT NOT NULL, rgb TEXT NOT NULL, engages INTEGER NOT NULL, PRIMARY KEY (track, number)) WITHOUT ROWID;
CREATE TABLE label (track INTEGER NOT NULL, place INTEGER NOT NULL, text TEXT NOT NULL,
  PRIMARY KEY (track, place)) WITHOUT ROWID;
CREATE TABLE list (id INTEGER PRIMARY KEY, parent INTEGER, place INTEGER NOT NULL, name TEXT NOT NULL,
  is_folder INTEGER NOT NULL, rule TEXT);
CREATE TABLE in_list (list INTEGER NOT NULL, place INTEGER NOT NULL, track INTEGER NOT NULL,
  PRIMARY KEY (list, place)) WITHOUT ROWID;
CREATE TABLE play (id INTEGER PRIMARY KEY, track INTEGER NOT NULL, at TEXT NOT NULL, night TEXT NOT NULL);
"""


def write_saltmarsh(
    path: Path, cards: Iterable[tuple[str, Card]], lists: Sequence[Node], plays: Iterable[Play] = ()
) -> None:
    """Write a database whole, in a file that is not there yet.

    Raises:
        sqlite3.Error, OSError: if the disk does not do it.
    """
    with closing(sqlite3.connect(path, isolation_level=None)) as out:
        out.execute("PRAGMA journal_mode = OFF")
        out.execute("PRAGMA synchronous = OFF")
        out.executescript(TABLES)
        out.execute("BEGIN")
        ids: dict[str, int] = {}
        for number, (key, card) in enumerate(cards, 1):
            ids[key] = number
            _write_card(out, number, card)
        for place, node in enumerate(lists):
            _write_node(out, node, None, place, ids)
        out.executemany(
            "INSERT INTO play (track, at, night) VALUES (?, ?, ?)",
            ((ids[play.key], play.played_at, play.night) for play in plays if play.key in ids),
        )
        out.execute("COMMIT")
        out.execute(f"PRAGMA user_version = {FORMAT}")


def settle(place: Path, at: datetime) -> None:
    """Have another program's last work stand in its database itself, not in the journal beside it: that would
    be read into whatever takes its place.

    Raises:
        LibraryFormatError: if a program has it open.
    """
    if place.exists():
        try:
            with closing(sqlite3.connect(place, timeout=BUSY_S, isolation_level=None)) as there:
                if there.execute("PRAGMA journal_mode = DELETE").fetchone()[0] != "delete":
                    raise LibraryFormatError(_is_open(place))
                there.execute("BEGIN EXCLUSIVE")
                there.execute("COMMIT")
        except sqlite3.OperationalError as error:
            raise LibraryFormatError(_is_open(place)) from error
    for ending in JOURNALS:
        left = place.with_name(place.name + ending)
        if left.exists():
            left.rename(free_beside(left, f"{left.name}.backup-{at:%Y%m%d-%H%M%S}"))


def _is_open(place: Path) -> str:
    return f"{place.name} is open in another program: close that, then try again. Nothing was written."


def _write_card(out: sqlite3.Connection, number: int, card: Card) -> None:
    out.execute("INSERT INTO track VALUES (?, ?, ?)", (number, card.path, pack_beats(card)))
    out.executemany("INSERT INTO word VALUES (?, ?, ?)", ((number, *each) for each in card.words.items()))
    for table, bank in (("point", "list"), ("quick", "quick")):
        out.executemany(
            f"INSERT INTO {table} VALUES (?, ?, ?, ?, ?, ?, ?)",
            (
                (number, each.place, each.at, each.length, each.name, each.colour, each.engages)
                for each in card.points
                if each.bank == bank
            ),
        )
    out.executemany(
        "INSERT INTO label VALUES (?, ?, ?)", ((number, n, tag) for n, tag in enumerate(card.tags))
    )


def _write_node(
    out: sqlite3.Connection, node: Node, parent: int | None, place: int, ids: dict[str, int]
) -> None:
    rule = json.dumps(node.rule) if node.rule is not None else None
    cursor = out.execute(
        "INSERT INTO list (parent, place, name, is_folder, rule) VALUES (?, ?, ?, ?, ?)",
        (parent, place, node.name, node.kind == "folder", rule),
    )
    list_id = cursor.lastrowid
    held = [ids[key] for key in node.tracks if key in ids]
    out.executemany(
        "INSERT INTO in_list VALUES (?, ?, ?)", ((list_id, n, each) for n, each in enumerate(held))
    )
    for inner_place, each in enumerate(node.inner):
        _write_node(out, each, list_id, inner_place, ids)


def pack_beats(card: Card) -> bytes | None:
    """The steps of a card as a compressed blob; None without any."""
    if not card.steps:
        return None
    head = HEAD.pack(MAGIC, len(card.steps), card.beats_per_bar, card.settled)
    return zlib.compress(head + b"".join(BEAT.pack(s.at, s.beat, s.bpm) for s in card.steps))


def unpack_beats(blob: bytes) -> tuple[tuple[Step, ...], int, bool]:
    """Steps, beats of a bar, and whether they are settled.

    Raises:
        ValueError: if they are not whole.
    """
    data = zlib.decompressobj().decompress(blob, LARGEST_BEATS)
    if len(data) < HEAD.size:
        raise ValueError("its beats are cut off")
    magic, count, bar, settled = HEAD.unpack_from(data)
    if magic != MAGIC or len(data) != HEAD.size + count * BEAT.size:
        raise ValueError("its beats are damaged")
    return tuple(Step(*each) for each in BEAT.iter_unpack(data[HEAD.size :])), bar, bool(settled)


class SaltmarshReader:
    """A database, read as it stands at one moment, also while another program writes."""

    def __init__(self, path: Path) -> None:
        self.told = Told()
        self._path = path

    def cards(self) -> Iterator[tuple[str, Card]]:
        """All tracks; one that is damaged is told and passed over.

        Raises:
            LibraryFormatError: if it is no such database, locked, or newer.
        """
        try:
            with closing(self._open()) as read:
                read.execute("BEGIN")
                self._check(read)
                yield from self._tracks(read)
                self.told.lists = nest(_lists(read), self.told.problems)
                self.told.plays = tuple(
                    Play(str(row["track"]), str(row["at"]), str(row["night"]))
                    for row in read.execute("SELECT track, at, night FROM play ORDER BY at, id")
                )
        except sqlite3.OperationalError as error:
            raise LibraryFormatError(_words(self._path, error)) from error
        except sqlite3.DatabaseError as error:
            raise LibraryFormatError(f"{self._path.name} is no Saltmarsh database ({error}).") from error

    def _open(self) -> sqlite3.Connection:
        if not self._path.is_file():
            raise LibraryFormatError(f"There is no file {self._path}.")
        read = sqlite3.connect(f"{self._path.absolute().as_uri()}?mode=ro", uri=True, timeout=BUSY_S)
        read.isolation_level = None
        read.row_factory = sqlite3.Row
        return read

    def _check(self, read: sqlite3.Connection) -> None:
        version = read.execute("PRAGMA user_version").fetchone()[0]
        if version > FORMAT:
            raise LibraryFormatError(
                f"{self._path.name} is of format {version}; Vinyl reads Saltmarsh up to {FORMAT}. "
                "Nothing was read."
            )
        tables = {row[0] for row in read.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        if not {"track", "word", "point", "quick", "list", "in_list"} <= tables:
            raise LibraryFormatError(f"{self._path.name} is a database, but none of Saltmarsh.")

    def _tracks(self, read: sqlite3.Connection) -> Iterator[tuple[str, Card]]:
        rows = read.execute("SELECT id, path, beats FROM track ORDER BY id")
        while batch := rows.fetchmany(BATCH):
            between = (batch[0]["id"], batch[-1]["id"])
            words: dict[int, list[tuple[str, str]]] = _by_track(
                read, "SELECT track, name, text FROM word", between
            )
            labels: dict[int, list[tuple[str]]] = _by_track(read, "SELECT track, text FROM label", between)
            points = _by_track(
                read, "SELECT track, 'list', place, at, length, name, rgb, engages FROM point", between
            )
            quick = _by_track(
                read, "SELECT track, 'quick', number, at, length, name, rgb, engages FROM quick", between
            )
            for row in batch:
                number = row["id"]
                held = (*points.get(number, ()), *quick.get(number, ()))
                tags = tuple(each[0] for each in labels.get(number, ()))
                try:
                    card = self._card(row, dict(words.get(number, ())), held, tags)
                except (ValueError, TypeError) as error:
                    self.told.problems.append(f"Track {number} was passed over: {error}.")
                    continue
                yield str(number), card

    def _card(
        self, row: sqlite3.Row, words: dict[str, str], held: Sequence[Any], tags: tuple[str, ...]
    ) -> Card:
        """A track as a card.

        Raises:
            ValueError, TypeError: if it holds what is none.
        """
        try:
            steps, bar, settled = unpack_beats(row["beats"]) if row["beats"] else ((), 4, False)
        except (ValueError, TypeError, zlib.error, struct.error) as error:
            self.told.problems.append(f"{row['path']} came without its grid: {error}.")
            steps, bar, settled = (), 4, False
        found = sorted((_point(each) for each in held), key=_in_order)
        return checked(Card(row["path"], words, steps, bar, settled, tuple(found), tags))


def _in_order(point: Point) -> tuple[float, float, str, int]:
    return point.at, point.length or 0.0, point.bank, point.place


def _point(row: tuple[Any, ...]) -> Point:
    bank, place, at, length, name, rgb, engages = row
    return Point(bank, place, at, length, name, rgb, bool(engages))


def _by_track(read: sqlite3.Connection, select: str, between: tuple[int, int]) -> dict[int, list[Any]]:
    found: dict[int, list[Any]] = {}
    for row in read.execute(f"{select} WHERE track BETWEEN ? AND ? ORDER BY track", between):
        found.setdefault(row[0], []).append(tuple(row)[1:])
    return found


def _lists(read: sqlite3.Connection) -> Iterator[Branch]:
    held: dict[object, list[str]] = {}
    for row in read.execute("SELECT list, track FROM in_list ORDER BY list, place"):
        held.setdefault(row[0], []).append(str(row[1]))
    for row in read.execute("SELECT * FROM list ORDER BY place, id"):
        if row["is_folder"]:
            node = Node(str(row["name"]), "folder")
        else:
            rule = _rule(row["rule"])
            node = Node(
                str(row["name"]), "rule list" if rule else "list", tuple(held.get(row["id"], ())), rule=rule
            )
        yield Branch(row["id"], row["parent"], node)


def _rule(text: object) -> dict[str, Any] | None:
    """The rule of a list in plain form; None where there is none: its tracks stay a list."""
    try:
        rule = json.loads(text) if isinstance(text, str) and text else None
    except (ValueError, RecursionError):
        return None
    return rule if isinstance(rule, dict) else None


def _words(path: Path, error: sqlite3.OperationalError) -> str:
    if "locked" in str(error) or "busy" in str(error):
        return f"{path.name} is being written by another program: close that, then try again."
    return f"{path.name} is no Saltmarsh database, or is damaged ({error})."
