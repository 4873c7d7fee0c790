"""Describing many tracks at once: what they have in common, values by hand, and edits of their texts."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from vinyl.core.rules.conditions import Part, TextField
from vinyl.core.rules.text_edits import Case, clean_spaces, in_case, split_name
from vinyl.core.tonal.key import parse_key
from vinyl.library import flat, values
from vinyl.library.conditions import OF_PATH
from vinyl.library.errors import LibraryError
from vinyl.library.locks import check_open, without_locked
from vinyl.library.values import Field, Value

TextName = Literal[
    "title", "artist", "remixer", "album", "label", "catalogue", "genre", "grouping", "composer", "language",
    "isrc", "comment",
]  # fmt: skip
EditName = Literal[
    TextName, "year", "key", "stars", "energy", "explicit", "colour", "marks", "never again", "wanted"
]
# Fields with a column of the same name in the flat table, but for these.
COLUMN: Mapping[str, str] = {"stars": "rating", "never again": "never_again"}
LONGEST_TEXT = 4000
MOST_MARKS = 12
MOST_COMPLETIONS = 12
FLAGS = frozenset({"explicit", "never again", "wanted"})
RANGES: Mapping[str, tuple[int, int]] = {"stars": (0, 5), "energy": (0, 100), "year": (1000, 2999)}


@dataclass(frozen=True, slots=True)
class Common:
    """What tracks have in a field: the one value, or None with how many different ones."""

    value: str | None
    different: int


@dataclass(frozen=True, slots=True)
class TextChange:
    """A text of a track as it is and as an edit makes it."""

    track_id: int
    field: TextName
    before: str
    after: str


def in_common(
    connection: sqlite3.Connection, track_ids: Sequence[int], fields: Sequence[EditName]
) -> dict[EditName, Common]:
    """What tracks have in common in each field."""
    ids, found = json.dumps(list(track_ids)), {}
    for field in fields:
        column = COLUMN.get(field, field)
        row = connection.execute(
            f"SELECT count(DISTINCT coalesce(shelf.{column}, '')), min(coalesce(shelf.{column}, '')) "
            "FROM json_each(?) i JOIN shelf ON shelf.id = i.value",
            (ids,),
        ).fetchone()
        found[field] = Common(str(row[1]) if row[0] == 1 else None, row[0])
    return found


def edit(
    connection: sqlite3.Connection, track_ids: Sequence[int], given: Mapping[EditName, str | None]
) -> int:
    """Give tracks values by hand; None takes the hand's word back, so that the other sources count again.

    Returns:
        How many were left out because their tags, or their key, are locked.

    Raises:
        LockedError: if all of them are locked.
        LibraryError: for a value that a field cannot have.
    """
    said = meant(given)
    left_out = 0
    parts: tuple[tuple[Part, set[Field]], ...] = (
        ("key", said.keys() & {"key"}),
        ("tags", said.keys() - {"key"}),
    )
    for part, its in parts:
        if its:
            open_ids = _open(connection, track_ids, part)
            values.put(connection, open_ids, "by hand", {field: said[field] for field in its})
            left_out = max(left_out, len(track_ids) - len(open_ids))
    flat.settle(connection, track_ids, said)
    return left_out


def meant(given: Mapping[EditName, str | None]) -> dict[Field, Value | None]:
    """What values by hand are kept as.

    Raises:
        LibraryError: for one that a field cannot have.
    """
    return {
        field: None if text is None or _is_no_key(field, text) else Value(_checked(field, text))
        for field, text in given.items()
    }


def completions(connection: sqlite3.Connection, field: TextName | TextField, begun: str) -> list[str]:
    """Texts of a field that begin so, or have a word that does, the commonest first. Of paths there are too
    many to be offered.
    """
    if field in OF_PATH:
        return []
    rows = connection.execute(
        f"""SELECT {field}, count(*) AS uses FROM shelf WHERE {field} <> ''
            AND ' ' || fold({field}) LIKE '% ' || fold(?1) || '%' ESCAPE '\\'
            GROUP BY {field} ORDER BY uses DESC, {field} LIMIT {MOST_COMPLETIONS}""",
        (begun.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_"),),
    )
    return [row[0] for row in rows]


# The indexes that have texts of fields of which names are known.
BY_TEXT: Mapping[str, str] = {
    **dict.fromkeys(("genre", "artist", "label"), "{} COLLATE NOCASE"),
    "colour": "nullif({}, '')",
    "codec": "{}",
}


def exact(connection: sqlite3.Connection, field: TextField, texts: Sequence[str]) -> list[str]:
    """Texts that tracks have in a field and that are as some of those given, but for their case."""
    by = BY_TEXT[field].format(field)
    rows = connection.execute(
        f"SELECT {field} FROM shelf WHERE {by} IN (SELECT value FROM json_each(?)) GROUP BY {by}",
        (json.dumps(list(texts)),),
    )
    return [row[0] for row in rows if row[0]]


def changes_by(
    connection: sqlite3.Connection,
    track_ids: Sequence[int],
    fields: Sequence[TextName],
    change: Callable[[str], str],
) -> list[TextChange]:
    """What an edit of each text would change of tracks whose tags are not locked, in their order.

    Raises:
        TextEditError: if the edit makes no sense.
    """
    changes = []
    for row in _texts(connection, track_ids, fields):
        for field in fields:
            after = change(row[field])
            if after != row[field]:
                changes.append(TextChange(row["id"], field, row[field], after))
    return changes


def cleaned(spaces: bool, case: Case | None) -> Callable[[str], str]:
    """An edit that puts white space and case right."""

    def clean(text: str) -> str:
        text = clean_spaces(text) if spaces else text
        return in_case(text, case) if case else text

    return clean


def split_names(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[TextChange]:
    """What taking "artist - title" names apart would change."""
    changes = []
    for row in _texts(connection, track_ids, ("title", "artist")):
        split = split_name(row["title"], row["artist"])
        if split is None:
            continue
        changes.append(TextChange(row["id"], "title", row["title"], split[0]))
        if split[1] != row["artist"]:
            changes.append(TextChange(row["id"], "artist", row["artist"], split[1]))
    return changes


def keep(connection: sqlite3.Connection, changes: Sequence[TextChange]) -> None:
    """Set changed texts by hand; what the files say is kept beside them."""
    by_field: dict[TextName, dict[int, str]] = {}
    for change in changes:
        by_field.setdefault(change.field, {})[change.track_id] = change.after[:LONGEST_TEXT]
    for field, texts in by_field.items():
        values.put_each(connection, field, "by hand", texts)
        flat.settle(connection, texts, [field])


def _texts(
    connection: sqlite3.Connection, track_ids: Sequence[int], fields: Sequence[TextName]
) -> sqlite3.Cursor:
    return connection.execute(
        f"""SELECT shelf.id, {", ".join(f"shelf.{field}" for field in fields)} FROM json_each(?) i
            JOIN shelf ON shelf.id = i.value
            WHERE NOT EXISTS (SELECT 1 FROM track_lock l WHERE l.track_id = shelf.id AND l.part = 'tags')
            ORDER BY i.key""",
        (json.dumps(list(track_ids)),),
    )


def _open(connection: sqlite3.Connection, track_ids: Sequence[int], part: Part = "tags") -> list[int]:
    open_ids = without_locked(connection, track_ids, part)
    if track_ids and not open_ids:
        check_open(connection, track_ids[0], part)
    return open_ids


def _is_no_key(field: Field, text: str) -> bool:
    """Nothing in place of a key takes the hand's word back."""
    return field == "key" and not text.strip()


def _checked(field: Field, text: str) -> str:
    text = text.strip()
    if field in FLAGS:
        return "yes" if text in ("yes", "1") else "no"
    if field in RANGES and text:
        low, high = RANGES[field]
        if not text.isdecimal() or not low <= int(text) <= high:
            raise LibraryError(f"“{text}” cannot be: {field} is a number from {low} to {high}.")
        return str(int(text))
    if field == "key":
        return _key_of(text)
    if len(text) > LONGEST_TEXT:
        raise LibraryError(f"A text can have {LONGEST_TEXT} characters at the most.")
    return "".join(text.split())[:MOST_MARKS] if field == "marks" else text


def _key_of(text: str) -> str:
    """A key in any notation as it is kept."""
    try:
        return str(parse_key(text))
    except ValueError as error:
        raise LibraryError(f"{error} Nothing was changed.") from error
