"""The flat table that lists read and sort by: one row a track, kept up in the transaction of every change.

``settle`` is the one function that writes it. Each column says what it is made of; a change names what it has
changed, and only the columns made of that are written anew, for any number of tracks in one statement.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from vinyl.library.values import FIELDS, get_rules, rank_sql

BATCH = 2000
REPLACED_DOUBT = 0.7
REPLACED_REASON = "the file was replaced by another sound: check grid and cues by ear"
SHOWN = ("title", "artist", "album", "genre", "label")
SEARCHED = (*SHOWN, "remixer", "composer", "grouping", "catalogue")
SEARCHED_SQL = " || ' ' || ".join(f"coalesce({name}.value, '')" for name in SEARCHED)

_FACTS = ("duration_s", "codec", "bit_rate", "has_picture", "away", "added_at")
_REPLACED = "EXISTS (SELECT 1 FROM track_replaced r WHERE r.track_id = t.id)"
_GRID_DOUBT = "CASE WHEN grid.source = 'by hand' THEN 0.0 ELSE grid.doubt END"
_GRID_REASONS = (
    "CASE WHEN grid.source = 'by hand' THEN '[]' ELSE coalesce(grid.detail ->> 'reasons', '[]') END"
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
    *(_column(name, f"coalesce({name}.value, '')", name) for name in (*SHOWN, "comment")),
    _column("search_text", f"fold({SEARCHED_SQL})", *SEARCHED),
    _column("year", "CAST(year.value AS INTEGER)", "year"),
    _column("rating", "CAST(coalesce(stars.value, '0') AS INTEGER)", "stars"),
    _column("energy", "CAST(energy.value AS INTEGER)", "energy"),
    _column("bpm", "CAST(tempo.value AS REAL)", "tempo"),
    _column("bpm_source", "tempo.source", "tempo"),
    _column("key", "key.value", "key"),
    _column("key_place", "(SELECT place FROM key_place p WHERE p.key = key.value)", "key"),
    _column("key_source", "key.source", "key"),
    _column("key_confidence", "1.0 - key.doubt", "key"),
    _column(
        "doubt",
        f"CASE WHEN {_REPLACED} THEN max(coalesce({_GRID_DOUBT}, 0.0), {REPLACED_DOUBT}) "
        f"ELSE {_GRID_DOUBT} END",
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
    _column("findings", "coalesce(quality.value, '[]')", "quality"),
    _column("replaced", _REPLACED, "track_replaced"),
    *(_column(name, f"t.{name}", "facts") for name in _FACTS),
    _column("lufs", "(SELECT lufs FROM track_analysis a WHERE a.track_id = t.id)", "analysis"),
    _column(
        "analysis_state",
        "coalesce((SELECT state FROM analysis_queue q WHERE q.track_id = t.id), CASE WHEN EXISTS "
        "(SELECT 1 FROM track_analysis a WHERE a.track_id = t.id) THEN 'done' ELSE 'none' END)",
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
    rules = get_rules(connection)
    winners = " ".join(_winners(field, rank_sql(rules[field])) for field in fields)
    connection.execute(
        f"WITH ids (id) AS (SELECT value FROM json_each(?)) UPDATE shelf SET {sets} "
        f"FROM (SELECT t.id AS track_id, {made} FROM ids JOIN track t ON t.id = ids.id {winners}) "
        "WHERE shelf.id = track_id",
        (json.dumps(list(track_ids)),),
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


def _winners(field: str, rank: str) -> str:
    """A join, under the field's name, with the values that win."""
    # That a grid was not found is told with reasons, so a source of the grid may win without one.
    return (
        "LEFT JOIN (SELECT track_id, value, coalesce(origin, source) AS source, doubt, detail, "
        f"min({rank}) FROM track_value WHERE field = '{field}' AND track_id IN (SELECT id FROM ids) "
        "AND (value IS NOT NULL OR source = 'locked' OR field = 'grid') GROUP BY track_id) "
        f"AS {field} ON {field}.track_id = t.id"
    )
