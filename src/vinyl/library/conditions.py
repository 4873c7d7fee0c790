"""Conditions (vinyl.core.rules.conditions) as one parametrised SQL expression over the flat
table ``shelf``."""

from __future__ import annotations

import re
from typing import Any

from vinyl.core.rules.conditions import (
    AFTER_ANY_TIME,
    Added,
    AllOf,
    AnyOf,
    Between,
    Condition,
    InList,
    Is,
    KeyIs,
    LastPlayed,
    Locked,
    NoneOf,
    OverBacking,
    Tagged,
    TextIs,
    Words,
    wanted_keys,
)
from vinyl.core.text import fold

Sql = tuple[str, list[Any]]

# Columns that are looked up by an index, but for ids of few tracks.
INDEXED = re.compile(r"shelf\.(?!id\b)")
BY_TAG = "shelf.id IN (SELECT track_id FROM track_tag WHERE tag_id = ?)"
BY_OWN_TAGS = "instr(shelf.tags, ',' || ? || ',') > 0"

FLAGS = {
    "away": "shelf.away",
    "has picture": "shelf.has_picture",
    "analysed": "shelf.analysis_state = 'done'",
    "replaced": "shelf.replaced",
    "has findings": "shelf.findings <> '[]'",
    "explicit": "shelf.explicit",
    "never again": "shelf.never_again",
    "has tags": "shelf.tags <> ''",
}
TRUE, FALSE = "1", "0"
TRIGRAM = 3
# Text fields with an index of their own (shelf_style) and few different texts.
SKIPPED = frozenset({"genre"})


def compile_condition(condition: Condition) -> Sql:
    """An expression that is 1 or 0 for every row of ``shelf``, never null, and its parameters in order."""
    match condition:
        case AllOf(parts):
            return _joined(parts, " AND ", TRUE)
        case AnyOf(parts):
            return _any_word_sql(parts) or _joined(parts, " OR ", FALSE)
        case NoneOf(parts):
            sql, values = _joined(parts, " OR ", FALSE)
            return f"NOT {sql}", values
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
    return _value_sql(condition)


def for_scan(sql: str) -> str:
    """An expression that is tested row by row: where much is found, that is faster than going from an index
    to rows all over the table.
    """
    return INDEXED.sub(lambda column: f"+{column.group()}", sql.replace(BY_TAG, BY_OWN_TAGS))


def _value_sql(condition: Condition) -> Sql:
    match condition:
        case Words(text):
            return _words_sql(fold(text).split())
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
        case KeyIs():
            keys = wanted_keys(condition)
            return f"(shelf.key IS NOT NULL AND shelf.key IN ({', '.join('?' * len(keys))}))", list(keys)
    raise TypeError(f"{condition!r} is no condition")


def _dates_sql(column: str, since: str | None, until: str | None) -> Sql:
    ends = [("shelf.{} >= ?", since), ("shelf.{} <= ?", until and until + AFTER_ANY_TIME)]
    given = [(sql.format(column), date) for sql, date in ends if date is not None]
    return _and([f"shelf.{column} IS NOT NULL", *(sql for sql, _ in given)]), [date for _, date in given]


def _text_sql(field: str, wanted: str, how: str) -> Sql:
    """A text field, folded. Each text is folded once, however many tracks have it: there are few styles and
    labels.
    """
    tests: dict[str, Sql] = {
        "is": ("fold(text) = ?", [wanted]),
        "contains": ("instr(fold(text), ?) > 0", [wanted]),
        "begins": ("substr(fold(text), 1, ?) = ?", [len(wanted), wanted]),
    }
    test, values = tests[how]
    return f"shelf.{field} IN (SELECT text FROM ({_texts_sql(field)}) WHERE {test})", values


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


BY_WORDS = "shelf.id IN (SELECT rowid FROM shelf_text WHERE shelf_text MATCH ?)"


def _words_sql(words: list[str]) -> Sql:
    """Each word somewhere in the text; long ones are looked up by their groups of three letters."""
    short = [word for word in words if len(word) < TRIGRAM]
    long_words = [word for word in words if len(word) >= TRIGRAM]
    tests = ["instr(shelf.search_text, ?) > 0"] * len(short)
    if not long_words:
        return _and(tests), list(short)
    return _and([BY_WORDS, *tests]), [" AND ".join(map(_quoted, long_words)), *short]


def _any_word_sql(parts: tuple[Condition, ...]) -> Sql | None:
    """One of many words, in one look at the index; None for anything else."""
    words = [fold(part.text).split() for part in parts if isinstance(part, Words)]
    if not words or len(words) < len(parts) or any(len(w) < TRIGRAM for each in words for w in each or [""]):
        return None
    return BY_WORDS, [" OR ".join(f"({' AND '.join(map(_quoted, each))})" for each in words)]


def _quoted(word: str) -> str:
    return '"' + word.replace('"', '""') + '"'


def _joined(parts: tuple[Condition, ...], word: str, empty: str) -> Sql:
    compiled = [compile_condition(part) for part in parts]
    sql = word.join(sql for sql, _ in compiled) or empty
    return f"({sql})", [value for _, values in compiled for value in values]


def _and(tests: list[str]) -> str:
    return f"({' AND '.join(tests) or TRUE})"
