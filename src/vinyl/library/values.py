"""Values of a track with all their sources, and the rules that say which one wins.

A value may come from a lock, by hand, from another library, from analysis, from the file's tags or from its
name. All are kept side by side; for each field the sources have an order, and the first that has a value
wins. A lock is a source that nothing beats, and what was done by hand comes right after it; the order of the
others can be changed.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, TypeVar

from vinyl.library.clock import now
from vinyl.library.errors import LibraryError

Field = Literal[
    "title", "artist", "remixer", "album", "label", "catalogue", "genre", "grouping", "composer", "language",
    "isrc", "comment", "year", "stars", "energy", "explicit", "plays", "gain", "colour", "marks",
    "never again", "wanted", "key", "tempo", "grid", "structure", "chapters", "quality",
]  # fmt: skip
Source = Literal["locked", "by hand", "another library", "analysis", "file tag", "file name"]

FieldName = TypeVar("FieldName", bound=str)

TEXT_FIELDS: tuple[Field, ...] = (
    "title", "artist", "remixer", "album", "label", "catalogue", "genre", "grouping", "composer", "language",
    "isrc", "comment",
)  # fmt: skip
FIELDS: tuple[Field, ...] = (
    *TEXT_FIELDS, "year", "stars", "energy", "explicit", "plays", "gain", "colour", "marks", "never again",
    "wanted", "key", "tempo", "grid", "structure", "chapters", "quality",
)  # fmt: skip
# What is heard is told best by analysis; what is written, by the file.
HEARD: frozenset[Field] = frozenset({"energy", "key", "tempo", "grid", "structure", "quality"})
SOURCES: tuple[Source, ...] = ("locked", "by hand", "another library", "analysis", "file tag", "file name")
WRITTEN: tuple[Source, ...] = ("locked", "by hand", "file tag", "another library", "analysis", "file name")
# Sources whose order the user may change, field by field.
FREE: tuple[Source, ...] = ("another library", "analysis", "file tag", "file name")
# What lies on the grid goes with it: the tempo and the structure have its order.
FOLLOWS: Mapping[Field, Field] = {"tempo": "grid", "structure": "grid"}
RULES = "value rules"


@dataclass(frozen=True, slots=True)
class Value:
    """What a source says: ``text`` is a text, a number, or JSON; ``doubt`` from 0 (sure) to 1, if the source
    tells.
    """

    text: str | None
    detail: Mapping[str, Any] | None = None
    doubt: float | None = None


@dataclass(frozen=True, slots=True)
class Sourced:
    """A value with where it comes from (for a locked one, what it was taken from, None if there was nothing),
    since when, and whether it wins.
    """

    field: Field
    source: Source
    origin: Source | None
    value: Value
    changed_at: str
    wins: bool


def triggers() -> dict[str, str]:
    """The trigger by which a track's values go with it: as a foreign key it would have to look through all
    values of all fields.
    """
    fields = ", ".join(f"'{field}'" for field in FIELDS)
    return {
        "track_value_go": "CREATE TRIGGER track_value_go AFTER DELETE ON track BEGIN "
        f"DELETE FROM track_value WHERE field IN ({fields}) AND track_id = OLD.id; END"
    }


def put(
    connection: sqlite3.Connection,
    track_ids: Iterable[int],
    source: Source,
    values: Mapping[Field, Value | None],
) -> None:
    """Keep what a source says of tracks; None takes its word back. The caller settles vinyl.library.flat."""
    ids, at = _as_json(track_ids), now()
    for field, value in values.items():
        if value is None:
            connection.execute(
                "DELETE FROM track_value WHERE field = ? AND source = ? AND "
                "track_id IN (SELECT value FROM json_each(?))",
                (field, source, ids),
            )
            continue
        detail = json.dumps(value.detail, ensure_ascii=False) if value.detail is not None else None
        connection.execute(
            """INSERT INTO track_value (track_id, field, source, value, detail, doubt, changed_at)
               SELECT t.id, ?2, ?3, ?4, ?5, ?6,
                 ?7 FROM json_each(?1) i JOIN track t ON t.id = i.value WHERE true
               ON CONFLICT (track_id, field, source) DO UPDATE SET value = excluded.value,
                 detail = excluded.detail,
                 doubt = excluded.doubt, changed_at = excluded.changed_at
               WHERE value IS NOT excluded.value OR detail IS NOT excluded.detail OR doubt IS NOT
                 excluded.doubt""",
            (ids, field, source, value.text, detail, value.doubt, at),
        )


def put_each(connection: sqlite3.Connection, field: Field, source: Source, texts: Mapping[int, str]) -> None:
    """Keep what a source says of one field, for each track a text of its own. The caller settles
    vinyl.library.flat.
    """
    connection.execute(
        """INSERT INTO track_value (track_id, field, source, value, changed_at)
           SELECT t.id, ?2, ?3, i.value ->> 1, ?4 FROM json_each(?1) i JOIN track t ON t.id = i.value ->> 0
           WHERE true ON CONFLICT (field, track_id, source) DO UPDATE SET value = excluded.value,
             detail = NULL, doubt = NULL, changed_at = excluded.changed_at
           WHERE value IS NOT excluded.value""",
        (json.dumps(list(texts.items())), field, source, now()),
    )


def put_new(connection: sqlite3.Connection, said: Iterable[tuple[int, Field, Source, str]]) -> None:
    """Keep what sources say of tracks that are new: track, field, source and text of each. The caller settles
    vinyl.library.flat.
    """
    at = now()
    connection.executemany(
        "INSERT INTO track_value (track_id, field, source, value, changed_at) VALUES (?, ?, ?, ?, ?)",
        ((*each, at) for each in said),
    )


def winner(connection: sqlite3.Connection, track_id: int, field: Field) -> Sourced | None:
    """The value that holds, or None where no source has any."""
    return next(
        (v for v in sources_of(connection, track_id, [field]) if v.wins and v.value.text is not None), None
    )


def winning_texts(
    connection: sqlite3.Connection, track_id: int, fields: Sequence[FieldName]
) -> dict[FieldName, str]:
    """What holds of a track, field by field; fields without a value are left out."""
    return {
        each.field: each.value.text  # type: ignore[misc]
        for each in sources_of(connection, track_id, fields)  # type: ignore[arg-type]
        if each.wins and each.value.text
    }


def sources_of(
    connection: sqlite3.Connection, track_id: int, fields: Sequence[Field] = FIELDS
) -> list[Sourced]:
    """All values of a track, field by field, the winning source of each first."""
    rules = get_rules(connection)
    rows = connection.execute(
        "SELECT * FROM track_value WHERE track_id = ? AND field IN (SELECT value FROM json_each(?))",
        (track_id, json.dumps(fields)),
    ).fetchall()
    found: list[Sourced] = []
    for field in fields:
        order = rules[field]
        mine = sorted(
            (row for row in rows if row["field"] == field), key=lambda row: order.index(row["source"])
        )
        wins = next((row for row in mine if row["value"] is not None or row["source"] == "locked"), None)
        found += [_sourced(row, row is wins) for row in mine]
    return found


def get_rules(connection: sqlite3.Connection) -> dict[Field, tuple[Source, ...]]:
    """For each field its sources, the one that wins first."""
    row = connection.execute("SELECT value FROM choice WHERE name = ?", (RULES,)).fetchone()
    chosen: dict[str, list[Source]] = json.loads(row[0]) if row else {}
    orders: dict[Field, tuple[Source, ...]] = {}
    for field in FIELDS:
        free = chosen.get(FOLLOWS.get(field, field))
        usual = SOURCES if field in HEARD else WRITTEN
        orders[field] = (*SOURCES[:2], *free) if free else usual
    return orders


def set_rule(connection: sqlite3.Connection, field: Field, order: Sequence[Source]) -> list[Field]:
    """Change which source wins for a field; returns the fields that are to be settled for all tracks.

    Raises:
        LibraryError: if the order leaves a source out, or the field follows another.
    """
    _check_rule(field, order)
    row = connection.execute("SELECT value FROM choice WHERE name = ?", (RULES,)).fetchone()
    chosen = {**(json.loads(row[0]) if row else {}), field: list(order)}
    connection.execute(
        "INSERT INTO choice (name, value) VALUES (?, ?) "
        "ON CONFLICT (name) DO UPDATE SET value = excluded.value",
        (RULES, json.dumps(chosen)),
    )
    return [field, *(follower for follower, leader in FOLLOWS.items() if leader == field)]


@dataclass(frozen=True, slots=True)
class RuleChange:
    """A track whose value would be another under another rule."""

    title: str
    before: str | None
    after: str | None


def preview_rule(
    connection: sqlite3.Connection, field: Field, order: Sequence[Source], most: int
) -> tuple[int, list[RuleChange]]:
    """How many tracks would have another value if a field's free sources had this order, and some of them.

    Raises:
        LibraryError: as set_rule.
    """
    _check_rule(field, order)
    winners = (
        "(SELECT track_id, value, min({rank}) FROM track_value "
        "WHERE field = ?1 AND (value IS NOT NULL OR source = 'locked') GROUP BY track_id)"
    )
    now, then = (rank_sql(each) for each in (get_rules(connection)[field], (*SOURCES[:2], *order)))
    changed = (
        f"FROM {winners.format(rank=now)} a JOIN {winners.format(rank=then)} b ON b.track_id = a.track_id "
        "JOIN shelf s ON s.id = a.track_id WHERE a.value IS NOT b.value"
    )
    count = connection.execute(f"SELECT count(*) {changed}", (field,)).fetchone()[0]
    rows = connection.execute(
        f"SELECT s.title, a.value AS before, b.value AS after {changed} ORDER BY s.title LIMIT ?2",
        (field, most),
    )
    return int(count), [RuleChange(**dict(row)) for row in rows]


def _check_rule(field: Field, order: Sequence[Source]) -> None:
    if field in FOLLOWS:
        raise LibraryError(f"The {field} goes with the grid: change the order of the grid's sources.")
    if sorted(order) != sorted(FREE):
        raise LibraryError(f"The order must name each of these once: {', '.join(FREE)}.")


def rank_sql(order: Sequence[Source]) -> str:
    """An SQL expression over a column ``source``: the lower, the sooner the source wins."""
    ranks = " ".join(f"WHEN '{name}' THEN {rank}" for rank, name in enumerate(order))
    return f"CASE source {ranks} END"


def _sourced(row: sqlite3.Row, wins: bool) -> Sourced:
    detail = json.loads(row["detail"]) if row["detail"] else None
    value = Value(row["value"], detail, row["doubt"])
    origin = row["origin"] if row["source"] == "locked" else row["source"]
    return Sourced(row["field"], row["source"], origin, value, row["changed_at"], wins)


def _as_json(ids: Iterable[int]) -> str:
    """Ids as one parameter, so that no number of them is too many for a statement."""
    return json.dumps(list(ids))
