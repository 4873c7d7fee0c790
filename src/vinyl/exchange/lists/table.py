"""Tables of values, parted by commas, semicolons or tabs: which column holds what is guessed from the head,
and the user's to say.
"""

from __future__ import annotations

import csv
import io

from vinyl.core.text import fold
from vinyl.exchange.errors import ListError
from vinyl.exchange.lists.model import Columns, Entry, Playlist, Table

# What heads of columns say, folded, the surest first.
HEADS = {
    "path": ("path", "file path", "location", "file", "filename", "file name", "url", "uri"),
    "artist": ("artist", "artists", "artist name", "performer", "creator", "by"),
    "title": ("title", "track title", "track name", "song", "track", "name"),
    "played": (
        "played at",
        "played",
        "start time",
        "started at",
        "started",
        "start",
        "time",
        "begins",
        "date",
    ),
}
DELIMITERS = ",;\t"
# What a cell begins with that a program of tables would reckon.
FORMULA = ("=", "+", "-", "@", "\t", "\r")
SHOWN_ROWS = 5
MOST_CELL = 1000
MOST_COLUMNS = 200


def safe_cell(text: str) -> str:
    """A cell that no program of tables takes for a formula: an apostrophe before it says that it is text."""
    return f"'{text}" if text.lstrip("'").startswith(FORMULA) else text


def _plain_cell(text: str) -> str:
    """What was meant by a cell, without the apostrophe that says it is text."""
    return text[1:] if text.startswith("'") and text.lstrip("'").startswith(FORMULA) else text


def read_table(text: str, name: str, encoding: str, columns: Columns | None) -> Playlist:
    """The rows as entries, by the given columns or those that the head suggests.

    Raises:
        ListError: if it is no table.
    """
    rows = rows_of(text)
    if not rows:
        raise ListError("This table has no rows.")
    guessed = _guess(rows[0])
    has_head = guessed != Columns()
    head = rows[0] if has_head else tuple(f"column {number}" for number in range(1, len(rows[0]) + 1))
    body = rows[1:] if has_head else rows
    used = columns or guessed
    entries = [_entry(row, used) for row in body]
    kept = tuple(entry for entry in entries if entry.path or entry.title)
    table = Table(head, tuple(body[:SHOWN_ROWS]), used)
    passed_over = len(entries) - len(kept) if used != Columns() else 0
    return Playlist(name, encoding, kept, table=table, passed_over=passed_over)


def _entry(row: tuple[str, ...], used: Columns) -> Entry:
    artist, title, played = (_cell(row, column).strip() for column in (used.artist, used.title, used.played))
    return Entry(_path(_cell(row, used.path)), artist, title, played=played)


def _path(cell: str) -> str:
    """A path with its blanks, which may belong to it; but for those between a comma and a whole path."""
    bare = cell.lstrip(" ")
    if not cell.strip():
        return ""
    return bare if bare.startswith(("/", "\\")) or bare[1:2] == ":" else cell


def rows_of(text: str) -> list[tuple[str, ...]]:
    """Rows of a table that have something in a cell.

    Raises:
        ListError: if it cannot be read.
    """
    head = text[:4096].splitlines()[0] if text.strip() else ""
    delimiter = max(DELIMITERS, key=head.count)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=delimiter))
    except csv.Error as error:
        raise ListError(f"This table cannot be read ({error}).") from error
    return [
        tuple(_plain_cell(cell)[:MOST_CELL] for cell in row[:MOST_COLUMNS])
        for row in rows
        if any(cell.strip() for cell in row)
    ]


def _guess(head: tuple[str, ...]) -> Columns:
    folded = [fold(cell).replace("_", " ").strip() for cell in head]
    found = {
        what: next((folded.index(word) for word in words if word in folded), None)
        for what, words in HEADS.items()
    }
    return Columns(**found)


def _cell(row: tuple[str, ...], column: int | None) -> str:
    return row[column] if column is not None and 0 <= column < len(row) else ""
