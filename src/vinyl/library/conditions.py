"""Conditions (vinyl.core.rules.conditions) as one parametrised SQL expression over the flat
table ``shelf``."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterable, Mapping
from datetime import date, timedelta
from typing import Any, get_args

from vinyl.core.cues.bounds import ROLES
from vinyl.core.rules.conditions import (
    AFTER_ANY_TIME,
    Added,
    AllOf,
    AnyOf,
    Between,
    Condition,
    FirstOf,
    Flaw,
    InList,
    Is,
    KeyIs,
    LastPlayed,
    LastPlayedAt,
    Lately,
    Locked,
    NeverAt,
    NoneOf,
    OverBacking,
    PlayedAt,
    Tagged,
    TextIs,
    Words,
    under,
    wanted_keys,
)
from vinyl.core.text import INITIALS, WITHIN, as_searched, asked_words, fold, is_word, stands_within
from vinyl.library.clock import today
from vinyl.library.sorts import SORTS

Sql = tuple[str, list[Any]]

# Columns that are looked up by an index, but for ids of few tracks.
INDEXED = re.compile(r"shelf\.(?!id\b)")
BY_TAG = "shelf.id IN (SELECT track_id FROM track_tag WHERE tag_id = ?)"
BY_OWN_TAGS = "instr(shelf.tags, ',' || ? || ',') > 0"

FLAGS: Mapping[str, str] = {
    "away": "shelf.away",
    "has picture": "shelf.has_picture",
    "analysed": "shelf.analysis_state = 'done'",
    "replaced": "shelf.replaced",
    "has findings": "shelf.findings <> '[]'",
    "explicit": "shelf.explicit",
    "never again": "shelf.never_again",
    "wanted": "shelf.wanted",
    "has tags": "shelf.tags <> ''",
    "double entry": "shelf.title <> '' AND EXISTS (SELECT 1 FROM shelf o WHERE o.artist = shelf.artist "
    "COLLATE NOCASE AND o.title = shelf.title COLLATE NOCASE AND o.id <> shelf.id)",
    "has versions": "shelf.id IN (SELECT track_id FROM track_version)",
    # Of each work one version is left if these are left out.
    "later version": "shelf.id IN (SELECT v.track_id FROM track_version v WHERE EXISTS (SELECT 1 "
    "FROM track_version o JOIN shelf s ON s.id = o.track_id WHERE o.work_id = v.work_id "
    "AND o.track_id < v.track_id))",
    "in a crate": "EXISTS (SELECT 1 FROM crate_place p WHERE p.track_id = shelf.id)",
    **{f"{role} point": f"instr(',' || shelf.cue_roles || ',', ',{role},') > 0" for role in ROLES},
    "loop": "shelf.id IN (SELECT track_id FROM cue WHERE length_s IS NOT NULL)",
    "engaging loop": "shelf.id IN (SELECT track_id FROM cue WHERE length_s IS NOT NULL AND engages)",
    **{
        f"{what} {said}": f"coalesce(shelf.{column}_source, '') = '{source}'"
        for what, column in (("tempo", "bpm"), ("key", "key"))
        for said, source in (
            ("by hand", "by hand"),
            ("by analysis", "analysis"),
            ("from the file", "file tag"),
        )
    },
    **{
        flaw: "(shelf.findings <> '[]' AND EXISTS (SELECT 1 FROM json_each(shelf.findings) f "
        f"WHERE json_extract(f.value, '$.kind') = '{flaw}'))"
        for flaw in get_args(Flaw)
    },
}
TRUE, FALSE = "1", "0"
MANY = 5000
LAST_LETTER = "\U0010ffff"
# Text fields with an index of their own (shelf_style) and few different texts.
SKIPPED = frozenset({"genre"})


def compile_condition(condition: Condition, row_by_row: bool = False) -> Sql:
    """An expression that is 1 or 0 for every row of ``shelf``, never null, and its parameters in order.

    Of several conditions on words that must all be met, the first is gone by, so it should be the one that
    few tracks meet; the others are tested on those tracks.

    Args:
        row_by_row: whether words are tested in each row, instead of collecting all tracks that have them.
    """
    match condition:
        case AllOf(parts):
            return _all_sql(parts, row_by_row)
        case AnyOf((part,)):
            return compile_condition(part, row_by_row)
        case AnyOf(parts):
            collected = None if row_by_row else _any_word_sql(parts)
            return collected or _joined(
                [compile_condition(part, row_by_row) for part in parts], " OR ", FALSE
            )
        case NoneOf(parts):
            sql, values = _joined([compile_condition(part) for part in parts], " OR ", FALSE)
            return f"NOT {sql}", values
        case Words(text):
            return _words_sql(text, row_by_row)
        case FirstOf():
            return _first_sql(condition)
        case InList(list_id):
            tracks = "SELECT track_id FROM crate_place WHERE crate_id = ? AND track_id IS NOT NULL"
            return f"shelf.id IN ({tracks})", [list_id]
        case Tagged(tag_id):
            return BY_TAG, [tag_id]
        case OverBacking(backing_id):
            return "shelf.backing_id IS ?", [backing_id]
        case Locked(part):
            return "instr(',' || shelf.locks || ',', ?) > 0", [f",{part},"]
        case Is(flag):
            return f"({FLAGS[flag]})", []
        case PlayedAt() | LastPlayedAt() | NeverAt():
            return _played_sql(condition)
    return _value_sql(condition)


def for_scan(sql: str) -> str:
    """An expression that is tested row by row: where much is found, that is faster than going from an index
    to rows all over the table.
    """
    return INDEXED.sub(lambda column: f"+{column.group()}", sql.replace(BY_TAG, BY_OWN_TAGS))


def _value_sql(condition: Condition) -> Sql:
    match condition:
        case TextIs(_, text, "under"):
            return _under_sql(under(text))
        case TextIs(field, text, how):
            return _text_sql(field, fold(text), how)
        case Between(field, low, high):
            ends = [(f"shelf.{field} >= ?", low), (f"shelf.{field} <= ?", high)]
            given = [(sql, end) for sql, end in ends if end is not None]
            tests = [f"shelf.{field} IS NOT NULL", *(sql for sql, _ in given)]
            return _and(tests), [end for _, end in given]
        case Added(since, until):
            return _dates_sql("added_at", since, until)
        case LastPlayed(since, until):
            return _dates_sql("last_played", since, until)
        case Lately(field, days):
            since = f"shelf.{field} IS NOT NULL AND shelf.{field} >= ?"
            return f"({since})", [_days_ago(days)]
        case KeyIs():
            keys = wanted_keys(condition)
            return f"(shelf.key IS NOT NULL AND shelf.key IN ({', '.join('?' * len(keys))}))", list(keys)
    raise TypeError(f"{condition!r} is no condition")


def _days_ago(days: int) -> str:
    """The date so many days before today, here; a very early one where there was none."""
    return str(date.min if days > today().toordinal() - 1 else today() - timedelta(days))


# Plays of nights that count, and those that were noted without one.
PLAYED = (
    "SELECT p.track_id FROM play p LEFT JOIN gig g ON g.id = p.gig_id "
    "WHERE p.track_id IS NOT NULL AND coalesce(g.practice, 0) = 0"
)
PLAYED_THERE = (
    "SELECT p.track_id FROM gig g JOIN play p ON p.gig_id = g.id "
    "WHERE g.venue_id = ? AND NOT g.practice AND p.track_id IS NOT NULL"
)


def _played_sql(condition: PlayedAt | LastPlayedAt | NeverAt) -> Sql:
    match condition:
        case PlayedAt():
            return _times_sql(condition)
        case LastPlayedAt(venue_id, since, until):
            ends = [
                ("max(g.on_day) >= ?", since),
                ("max(g.on_day) <= ?", until and until + AFTER_ANY_TIME),
            ]
            tests = " AND ".join(sql for sql, end in ends if end is not None) or TRUE
            values = [end for _, end in ends if end is not None]
            return f"shelf.id IN ({PLAYED_THERE} GROUP BY p.track_id HAVING {tests})", [venue_id, *values]
        case NeverAt(venue_id):
            return f"(shelf.never_again OR shelf.id IN ({PLAYED_THERE} AND p.never = 'here'))", [venue_id]


def _times_sql(condition: PlayedAt) -> Sql:
    """How often: those played too seldom are told by the others, for of most there is no play."""
    played, values = PLAYED, list[Any]()
    if condition.venue_id is not None:
        played, values = PLAYED_THERE, [condition.venue_id]
    if condition.days is not None:
        day = "coalesce(g.on_day, p.on_day)" if condition.venue_id is None else "g.on_day"
        played += f" AND {day} >= ?"
        values.append(_days_ago(condition.days))
    sql, given = TRUE, list[Any]()
    if condition.low:
        sql = f"shelf.id IN ({played} GROUP BY p.track_id HAVING count(*) >= ?)"
        given = [*values, condition.low]
    if condition.high is not None:
        sql += f" AND shelf.id NOT IN ({played} GROUP BY p.track_id HAVING count(*) > ?)"
        given += [*values, condition.high]
    return f"({sql})", given


def _dates_sql(column: str, since: str | None, until: str | None) -> Sql:
    ends = [("shelf.{} >= ?", since), ("shelf.{} <= ?", until and until + AFTER_ANY_TIME)]
    given = [(sql.format(column), date) for sql, date in ends if date is not None]
    return _and([f"shelf.{column} IS NOT NULL", *(sql for sql, _ in given)]), [date for _, date in given]


# Where a file lies, and what it is called there; both are parts of its path.
_FOLDER = "rtrim(path, replace(path, '/', ''))"
OF_PATH: Mapping[str, str] = {
    "folder": f"rtrim({_FOLDER}, '/')",
    "file_name": f"substr(path, length({_FOLDER}) + 1)",
}


def _text_sql(field: str, wanted: str, how: str) -> Sql:
    """A text field, folded. Each text is folded once, however many tracks have it: there are few styles and
    labels.
    """
    tests: dict[str, Sql] = {
        "is": ("fold(text) = ?", [wanted]),
        "contains": ("instr(fold(text), ?) > 0", [wanted]),
        "begins": ("substr(fold(text), 1, ?) = ?", [len(wanted), wanted]),
        "like": ("fold(text) GLOB ?", [wanted.replace("[", "[[]")]),
    }
    test, values = tests[how]
    if field in OF_PATH:
        return (
            f"shelf.id IN (SELECT id FROM (SELECT id, {OF_PATH[field]} AS text FROM track) WHERE {test})",
            values,
        )
    return f"shelf.{field} IN (SELECT text FROM ({_texts_sql(field)}) WHERE {test})", values


def _under_sql(begin: str) -> Sql:
    """What lies in a folder; paths have an index, and "0" is the letter after "/"."""
    return "shelf.id IN (SELECT id FROM track WHERE path >= ? AND path < ?)", [begin, f"{begin[:-1]}0"]


def _texts_sql(field: str) -> str:
    """The different texts of a field. Where they are few and indexed, by skipping from one to the next."""
    if field not in SKIPPED:
        return f"SELECT DISTINCT {field} AS text FROM shelf LIMIT -1"  # the limit keeps it a step of its own
    following = f"SELECT min({field}) FROM shelf WHERE {field} > text"
    return (
        f"WITH RECURSIVE texts (text) AS (SELECT min({field}) FROM shelf UNION ALL "
        f"SELECT ({following}) FROM texts WHERE text IS NOT NULL) "
        "SELECT text FROM texts WHERE text IS NOT NULL LIMIT -1"
    )


BY_WORD = (
    "shelf.id IN (SELECT track_id FROM shelf_word_in WHERE word_id IN (SELECT id FROM shelf_word WHERE {}))"
)
BY_PIECE = "id IN (SELECT rowid FROM shelf_piece WHERE shelf_piece MATCH ?) AND instr(word, ?) > 0"
IN_A_TRACK = "EXISTS (SELECT 1 FROM shelf_word_in WHERE word_id = shelf_word.id)"
BY_INITIAL = "shelf.initials & ? <> 0"


def _all_sql(parts: tuple[Condition, ...], row_by_row: bool) -> Sql:
    compiled = []
    for part in parts:
        compiled.append(compile_condition(part, row_by_row))
        row_by_row = row_by_row or _collects(part)
    return _joined(compiled, " AND ", TRUE)


def _words_sql(text: str, row_by_row: bool) -> Sql:
    """Each word somewhere in the text (vinyl.core.text.has_words). The longest, which few tracks have, is
    gone by.
    """
    words = sorted(asked_words(text), key=len, reverse=True)
    found = [_word_sql(word, row_by_row or place > 0) for place, word in enumerate(words)]
    return _and([sql for sql, _ in found]), [value for _, values in found for value in values]


def _word_sql(word: str, row_by_row: bool) -> Sql:
    if _is_initial(word):
        return BY_INITIAL, [1 << INITIALS.index(word)]
    if row_by_row or not is_word(word):
        return "instr(shelf.search_text, ?) > 0", [as_searched(word)]
    sql, values = _meant_sql(word)
    return BY_WORD.format(sql), values


def _is_initial(word: str) -> bool:
    return len(word) == 1 and word in INITIALS


def _meant_sql(word: str) -> Sql:
    """Those words of the library that a word stands for."""
    if len(word) >= WITHIN:
        quoted = word.replace('"', '""')
        return BY_PIECE, [f'"{quoted}"', word]
    if stands_within(word):
        return "instr(word, ?) > 0", [word]
    return "word BETWEEN ? AND ?", [word, word + LAST_LETTER]


def _any_word_sql(parts: tuple[Condition, ...]) -> Sql | None:
    """One of some words, in one look; None for anything else."""
    words = [word for part in parts for word in _single_word(part)]
    if not words or len(words) < len(parts):
        return None
    found = [_meant_sql(word) for word in words]
    either = " OR ".join(f"({sql})" for sql, _ in found)
    return BY_WORD.format(either), [value for _, values in found for value in values]


def _single_word(condition: Condition) -> list[str]:
    """The one word that a condition asks for; empty for anything else."""
    words = asked_words(condition.text) if isinstance(condition, Words) else []
    return words if len(words) == 1 and is_word(words[0]) else []


def _collects(condition: Condition) -> bool:
    """Whether a condition is met by going through the tracks that have a word."""
    if isinstance(condition, AnyOf):
        return _any_word_sql(condition.parts) is not None and any(map(_collects, condition.parts))
    words = asked_words(condition.text) if isinstance(condition, Words) else []
    return any(is_word(word) and not _is_initial(word) for word in words)


def _first_sql(condition: FirstOf) -> Sql:
    where, values = compile_condition(condition.where)
    ordered = f"SELECT shelf.id FROM shelf WHERE {where} ORDER BY {order_terms(condition)} LIMIT ?"
    return f"shelf.id IN ({ordered})", [*values, condition.count]


def order_terms(condition: FirstOf) -> str:
    """What the first of some tracks are told by, as SQL; ties go by id."""
    terms = [
        f"{SORTS[name]} {'DESC' if down else 'ASC'} NULLS LAST"
        for name, down in condition.order
        if name in SORTS
    ]
    return ", ".join([*terms, "shelf.id"])


def _joined(compiled: list[Sql], word: str, empty: str) -> Sql:
    sql = word.join(sql for sql, _ in compiled) or empty
    return f"({sql})", [value for _, values in compiled for value in values]


def _and(tests: list[str]) -> str:
    return f"({' AND '.join(tests) or TRUE})"


def is_known(connection: sqlite3.Connection, word: str) -> bool:
    """Whether a folded word stands in the text of any track."""
    sql, values = _meant_sql(word)
    query = f"SELECT 1 FROM shelf_word WHERE {sql} AND {IN_A_TRACK} LIMIT 1"
    return connection.execute(query, values).fetchone() is not None


def how_many_have(connection: sqlite3.Connection, words: Iterable[str]) -> int:
    """In how many texts one of some folded words stands, counted up to MANY."""
    found = [_meant_sql(part) for word in words for part in word.split()]
    either = " OR ".join(f"({sql})" for sql, _ in found)
    query = (
        "SELECT count(*) FROM (SELECT 1 FROM shelf_word_in WHERE word_id IN "
        f"(SELECT id FROM shelf_word WHERE {either}) LIMIT {MANY})"
    )
    return int(connection.execute(query, [value for _, values in found for value in values]).fetchone()[0])
