"""The flat table that lists read and sort by: one row a track, kept up in the transaction of every change.

``settle`` is the one function that writes it. Each column says what it is made of; a change names what it has
changed, and only the columns made of that are written anew, for any number of tracks in one statement.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from vinyl.library.values import FIELDS, get_rules, rank_sql

BATCH = 2000
REPLACED_DOUBT = 0.7
REPLACED_REASON = "the file was replaced by another sound: check grid and cues by ear"
SEARCHED = ("title", "artist", "album", "genre", "label")
SEARCHED_SQL = " || ' ' || ".join(f"coalesce({name}_value, '')" for name in SEARCHED)

_FACTS = ("duration_s", "codec", "bit_rate", "has_picture", "away", "added_at")
_REPLACED = "EXISTS (SELECT 1 FROM track_replaced r WHERE r.track_id = t.id)"
_GRID_DOUBT = "CASE WHEN grid_source = 'by hand' THEN 0.0 ELSE grid_doubt END"
_GRID_REASONS = (
    "CASE WHEN grid_source = 'by hand' THEN '[]' ELSE coalesce(grid_detail ->> 'reasons', '[]') END"
)


@dataclass(frozen=True, slots=True)
class Column:
    """A column of the flat table: the SQL that makes it of track ``t`` and its winning values,
    and what it is made of."""

    name: str
    sql: str
    made_of: frozenset[str]


def _column(name: str, sql: str, *made_of: str) -> Column:
    return Column(name, sql, frozenset(made_of))


COLUMNS = (
    *(_column(name, f"coalesce({name}_value, '')", name) for name in (*SEARCHED, "comment")),
    _column("search_text", f"fold({SEARCHED_SQL})", *SEARCHED),
    _column("year", "CAST(year_value AS INTEGER)", "year"),
    _column("rating", "CAST(coalesce(stars_value, '0') AS INTEGER)", "stars"),
    _column("energy", "CAST(energy_value AS INTEGER)", "energy"),
    _column("bpm", "CAST(tempo_value AS REAL)", "tempo"),
    _column("bpm_source", "tempo_source", "tempo"),
    _column("key", "key_value", "key"),
    _column("key_place", "(SELECT place FROM key_place p WHERE p.key = key_value)", "key"),
    _column("key_source", "key_source", "key"),
    _column("key_confidence", "1.0 - key_doubt", "key"),
    _column(
        "doubt",
        f"CASE WHEN {_REPLACED} THEN max(coalesce({_GRID_DOUBT}, 0.0), {REPLACED_DOUBT}) ELSE {_GRID_DOUBT} "
        f"END",
        "grid",
        "track_replaced",
    ),
    _column(
        "doubt_reasons",
        f"CASE WHEN {_REPLACED} THEN json_insert({_GRID_REASONS}, '$[#]', '{REPLACED_REASON}') ELSE "
        f"{_GRID_REASONS} END",
        "grid",
        "track_replaced",
    ),
    _column("replaced", _REPLACED, "track_replaced"),
    *(_column(name, f"t.{name}", "facts") for name in _FACTS),
    _column("lufs", "(SELECT lufs FROM track_analysis a WHERE a.track_id = t.id)", "analysis"),
    _column(
        "analysis_state",
        "coalesce((SELECT state FROM analysis_queue q WHERE q.track_id = t.id), "
        "CASE WHEN EXISTS (SELECT 1 FROM track_analysis a WHERE a.track_id = t.id) THEN 'done' ELSE 'none' "
        "END)",
        "analysis",
    ),
    _column("analysis_error", "(SELECT error FROM analysis_queue q WHERE q.track_id = t.id)", "analysis"),
    _column("cue_count", "(SELECT count(*) FROM cue c WHERE c.track_id = t.id)", "cue"),
    _column(
        "cue_roles", "coalesce((SELECT group_concat(role) FROM cue c WHERE c.track_id = t.id), '')", "cue"
    ),
    _column("route_count", "(SELECT count(*) FROM route r WHERE r.track_id = t.id)", "route"),
    _column(
        "locks",
        "coalesce((SELECT group_concat(part) FROM track_lock l WHERE l.track_id = t.id), '')",
        "track_lock",
    ),
)
EVERYTHING = frozenset().union(*(column.made_of for column in COLUMNS))


def settle(
    connection: sqlite3.Connection, track_ids: Iterable[int], changed: Iterable[str] = EVERYTHING
) -> None:
    """Write anew what lists show of tracks.

    Args:
        changed: names of fields whose values have changed, or "facts", "analysis" or a table such as "cue".
    """
    columns = [column for column in COLUMNS if not column.made_of.isdisjoint(changed)]
    if not columns:
        return
    fields = [field for field in FIELDS if any(field in column.made_of for column in columns)]
    made = ", ".join(f"{column.sql} AS new_{column.name}" for column in columns)
    sets = ", ".join(f"{column.name} = new_{column.name}" for column in columns)
    source = f"SELECT t.id AS track_id, {made} FROM ids JOIN track t ON t.id = ids.id"
    with_values = f"{source} LEFT JOIN pivot ON pivot.track_id = t.id" if fields else source
    ids = json.dumps(list(track_ids))
    connection.execute(
        f"WITH ids (id) AS (SELECT value FROM json_each(?)) {_pivot(connection, fields) if fields else ''} "
        f"UPDATE shelf SET {sets} FROM ({with_values}) WHERE shelf.id = track_id",
        (ids,),
    )


def settle_all(connection: sqlite3.Connection, changed: Iterable[str] = EVERYTHING) -> None:
    """The same for every track, a batch at a time."""
    ids = [row[0] for row in connection.execute("SELECT id FROM track ORDER BY id")]
    for start in range(0, len(ids), BATCH):
        settle(connection, ids[start : start + BATCH], changed)


def install(connection: sqlite3.Connection) -> None:
    """Fill the table where it is not, as after the migration that made it."""
    counts = connection.execute(
        "SELECT (SELECT count(*) FROM track), (SELECT count(*) FROM shelf)"
    ).fetchone()
    if counts[0] == counts[1]:
        return
    with connection:
        connection.execute("BEGIN IMMEDIATE")
        connection.execute(
            "INSERT INTO shelf (id) SELECT id FROM track WHERE id NOT IN (SELECT id FROM shelf)"
        )
        settle_all(connection)


def _pivot(connection: sqlite3.Connection, fields: Sequence[str]) -> str:
    """Common table expressions that give each track's winning values, four columns a field."""
    listed = ", ".join(f"'{field}'" for field in fields)
    parts = ", ".join(
        f"max(CASE WHEN field = '{field}' THEN {column} END) AS {field}_{name}"
        for field in fields
        for name, column in (
            ("value", "value"),
            ("source", "origin"),
            ("doubt", "doubt"),
            ("detail", "detail"),
        )
    )
    return (
        ", winning AS (SELECT track_id, field, value, coalesce(origin, source) AS origin, doubt, detail, "
        f"min({rank_sql(get_rules(connection))}) FROM track_value "
        f"WHERE track_id IN (SELECT id FROM ids) AND field IN ({listed}) "
        "AND (value IS NOT NULL OR source = 'locked' OR field = 'grid') GROUP BY track_id, field), "
        f"pivot AS (SELECT track_id, {parts} FROM winning GROUP BY track_id)"
    )
