"""The flat table that lists read and sort by: one row a track, kept up in the transaction of every change.

``settle`` is the one function that writes it. Each column says what it is made of; a change names what it has
changed, and only the columns made of that are written anew, for any number of tracks in one statement.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from vinyl.core.text import PIECE, SIGN
from vinyl.library.values import FIELDS, TEXT_FIELDS, get_rules, rank_sql

BATCH = 2000
REPLACED_DOUBT = 0.7
REPLACED_REASON = "the file was replaced by another sound: check grid and cues by ear"
SEARCHED = (*TEXT_FIELDS, "marks")
# Names of tags are found as texts are.
TEXT_OF = frozenset({*SEARCHED, "track_tag"})
_TAG_NAMES = (
    "(SELECT group_concat(g.name, ' ') FROM track_tag x JOIN tag g ON g.id = x.tag_id "
    "WHERE x.track_id = shelf.id)"
)

# What has to be written after a text has become another one: its words, and which of them are new or gone.
WRITE_WORDS = (
    """INSERT OR IGNORE INTO shelf_word (word)
       SELECT DISTINCT come.value FROM temp.settled, json_each(moved, '$.come') come""",
    """INSERT OR IGNORE INTO shelf_word_in (word_id, track_id)
       SELECT w.id, settled.track_id FROM temp.settled, json_each(moved, '$.come') come
       JOIN shelf_word w ON w.word = come.value ORDER BY w.id, settled.track_id""",
    """DELETE FROM shelf_word_in WHERE (word_id, track_id) IN (
         SELECT w.id, settled.track_id FROM temp.settled, json_each(moved, '$.gone') gone
         JOIN shelf_word w ON w.word = gone.value)""",
    "DROP TABLE temp.settled",
)

IDS = "WITH ids (id) AS (SELECT value FROM json_each(?))"
# Tracks that are on the Shelf and have no row yet.
LACKING = "id NOT IN (SELECT id FROM shelf) AND id NOT IN (SELECT track_id FROM off_shelf)"

_FACTS = ("duration_s", "codec", "bit_rate", "has_picture", "away")
# By the clock on the wall where it was, for days and months begin there.
_ADDED = "coalesce(strftime('%Y-%m-%dT%H:%M:%f', t.added_at, t.added_offset_min || ' minutes'), t.added_at)"
_REPLACED = "EXISTS (SELECT 1 FROM track_replaced r WHERE r.track_id = t.id)"
_GRID_DOUBT = "CASE WHEN grid.source = 'by hand' THEN 0.0 ELSE grid.doubt END"
_GRID_REASONS = (
    "CASE WHEN grid.source = 'by hand' THEN '[]' ELSE coalesce(grid.detail ->> 'reasons', '[]') END"
)
_MAIN_CUE = "(SELECT min(position_s) FROM cue c WHERE c.track_id = t.id AND c.role = 'main')"
# Practice does not count as played.
_PLAYED = (
    "FROM play p LEFT JOIN gig g ON g.id = p.gig_id WHERE p.track_id = t.id AND coalesce(g.practice, 0) = 0"
)
_MAIN_PROPOSED = (
    "(SELECT p.value ->> 'time' FROM json_each(structure.value, '$.cues') p "
    "WHERE p.value ->> 'role' = 'main')"
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
    *(_column(name, f"coalesce({name}.value, '')", name) for name in (*TEXT_FIELDS, "colour", "marks")),
    _column("year", "CAST(nullif(year.value, '') AS INTEGER)", "year"),
    _column("rating", "CAST(coalesce(stars.value, '0') AS INTEGER)", "stars"),
    _column("energy", "CAST(nullif(energy.value, '') AS INTEGER)", "energy"),
    _column("explicit", "coalesce(explicit.value, '') = 'yes'", "explicit"),
    _column("never_again", "coalesce(never_again.value, '') = 'yes'", "never again"),
    _column("wanted", "coalesce(wanted.value, '') = 'yes'", "wanted"),
    _column(
        "plays",
        f"CAST(coalesce(plays.value, '0') AS INTEGER) + (SELECT count(*) {_PLAYED})",
        "plays",
        "play",
    ),
    _column("last_played", f"(SELECT max(coalesce(g.on_day, p.on_day)) {_PLAYED})", "play"),
    _column("went_well", f"(SELECT count(*) {_PLAYED} AND p.went = 'well')", "play"),
    _column("fell_flat", f"(SELECT count(*) {_PLAYED} AND p.went = 'flat')", "play"),
    _column("asked_for", f"(SELECT count(*) {_PLAYED} AND p.asked)", "play"),
    _column("bpm", "CAST(tempo.value AS REAL)", "tempo"),
    _column("bpm_source", "tempo.source", "tempo"),
    _column("key", "key.value", "key"),
    _column("key_place", "(SELECT place FROM key_place p WHERE p.key = key.value)", "key"),
    _column("key_source", "key.source", "key"),
    _column("key_confidence", "iif(key.source = 'by hand', 1.0, 1.0 - key.doubt)", "key"),
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
    _column(
        "other_bpm",
        "CASE WHEN grid.source <> 'by hand' THEN CAST(grid.detail ->> 'other_bpm' AS REAL) END",
        "grid",
    ),
    _column("findings", "coalesce(quality.value, '[]')", "quality"),
    _column("replaced", _REPLACED, "track_replaced"),
    *(_column(name, f"t.{name}", "facts") for name in _FACTS),
    _column("added_at", _ADDED, "facts"),
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
    _column("main_s", f"coalesce({_MAIN_CUE}, {_MAIN_PROPOSED})", "cue", "structure"),
    _column(
        "tags",
        "coalesce((SELECT ',' || group_concat(tag_id) || ',' FROM track_tag x WHERE x.track_id = t.id), '')",
        "track_tag",
    ),
    _column(
        "backing_id", "(SELECT backing_id FROM track_backing b WHERE b.track_id = t.id)", "track_backing"
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
    changed, ids = frozenset(changed), list(track_ids)
    columns = [column for column in COLUMNS if not column.made_of.isdisjoint(changed)]
    if not columns or not ids:
        return
    fields = [field for field in FIELDS if any(field in column.made_of for column in columns)]
    made = ", ".join(f"{column.sql} AS new_{column.name}" for column in columns)
    rules = get_rules(connection)
    winners = " ".join(_winners(field, rank_sql(rules[field])) for field in fields)
    fresh = f"SELECT t.id AS track_id, {made} FROM ids JOIN track t ON t.id = ids.id {winners}"
    names = [column.name for column in columns]
    if TEXT_OF.isdisjoint(changed):
        sets = ", ".join(f"{name} = new_{name}" for name in names)
        connection.execute(
            f"{IDS} UPDATE shelf SET {sets} FROM ({fresh}) WHERE shelf.id = track_id", (json.dumps(ids),)
        )
    else:
        _settle_with_text(connection, ids, fresh, names)


def come_and_go(connection: sqlite3.Connection, track_ids: Iterable[int]) -> None:
    """Give tracks a row, or none, as they are on the Shelf or off it."""
    ids = json.dumps(list(track_ids))
    connection.execute(
        "DELETE FROM shelf WHERE id IN (SELECT track_id FROM off_shelf "
        "WHERE track_id IN (SELECT value FROM json_each(?)))",
        (ids,),
    )
    come = connection.execute(
        f"INSERT INTO shelf (id) SELECT id FROM track WHERE {LACKING} "
        "AND id IN (SELECT value FROM json_each(?)) RETURNING id",
        (ids,),
    )
    settle(connection, [row[0] for row in come.fetchall()])


def settle_all(connection: sqlite3.Connection, changed: Iterable[str] = EVERYTHING) -> None:
    """The same for every track, a batch at a time."""
    ids = [row[0] for row in connection.execute("SELECT id FROM track ORDER BY id")]
    for start in range(0, len(ids), BATCH):
        settle(connection, ids[start : start + BATCH], changed)


def is_as_made(connection: sqlite3.Connection) -> bool:
    """Whether all rows are made in the way in which columns are made now."""
    row = connection.execute("SELECT columns FROM shelf_made").fetchone()
    return row is not None and row[0] == _way()


def make_anew(connection: sqlite3.Connection) -> None:
    """Make all rows anew, as after a change of how columns are made."""
    connection.execute(f"INSERT INTO shelf (id) SELECT id FROM track WHERE {LACKING}")
    connection.execute("DELETE FROM shelf_word_in")
    connection.execute("UPDATE shelf SET search_text = ''")
    settle_all(connection)
    connection.execute("INSERT OR REPLACE INTO shelf_made VALUES (1, ?)", (_way(),))


def _way() -> str:
    """How columns are made, as text."""
    columns = [(column.name, column.sql) for column in COLUMNS]
    return repr([*columns, _search_text(()), PIECE.pattern, SIGN.pattern])


def _settle_with_text(
    connection: sqlite3.Connection, ids: Sequence[int], fresh: str, names: Sequence[str]
) -> None:
    """Write columns with what is searched, each row once, and which tracks have which words."""
    connection.execute("DROP TABLE IF EXISTS temp.settled")
    connection.execute(
        f"""CREATE TEMP TABLE settled AS {IDS},
             fresh AS MATERIALIZED ({fresh}),
             made AS MATERIALIZED (
               SELECT fresh.*, shelf.search_text AS before, {_search_text(names)} AS new_search_text
               FROM fresh JOIN shelf ON shelf.id = fresh.track_id)
           SELECT *, iif(before = new_search_text, NULL, words_moved(before, new_search_text)) AS moved
           FROM made""",
        (json.dumps(ids),),
    )
    sets = ", ".join(f"{name} = new_{name}" for name in (*names, "search_text"))
    # The widest index holds the initials: they are written only where they are others.
    others = "coalesce(moved ->> '$.initials' <> initials, false)"
    for more, where in (("", f"NOT {others}"), (", initials = moved ->> '$.initials'", others)):
        connection.execute(
            f"UPDATE shelf SET {sets}{more} FROM temp.settled WHERE shelf.id = track_id AND {where}"
        )
    for statement in WRITE_WORDS:
        connection.execute(statement)


def _search_text(fresh: Iterable[str]) -> str:
    """What is searched, as SQL, where some columns are written anew."""
    texts = " || ' ' || ".join(f"new_{name}" if name in fresh else name for name in SEARCHED)
    return f"searchable({texts} || coalesce(' ' || {_TAG_NAMES}, ''))"


def _winners(field: str, rank: str) -> str:
    """A join, under the field's name, with the values that win."""
    # That a grid was not found is told with reasons, so a source of the grid may win without one.
    return (
        "LEFT JOIN (SELECT track_id, value, coalesce(origin, source) AS source, doubt, detail, "
        f"min({rank}) FROM track_value WHERE field = '{field}' AND track_id IN (SELECT id FROM ids) "
        "AND (value IS NOT NULL OR source = 'locked' OR field = 'grid') GROUP BY track_id) "
        f"AS {field.replace(' ', '_')} ON {field.replace(' ', '_')}.track_id = t.id"
    )
