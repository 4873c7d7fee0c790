"""Genre words of the files as style tags: what is offered, and taking it."""

from __future__ import annotations

import json
import sqlite3
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

from vinyl.core.rules.genre_words import genre_words, spelling_key, styles_of
from vinyl.library import flat, tags


@dataclass(frozen=True, slots=True)
class Offer:
    """A style of the files: its spellings with their tracks, the tag it stands for or may, and how many
    tracks do not have that yet.
    """

    name: str
    spellings: dict[str, int]
    tag_id: int | None
    missing: int


def offers(connection: sqlite3.Connection, family_id: int) -> list[Offer]:
    """The styles that the files' genre words speak of, the most used first."""
    genres = {
        row[0]: row[1]
        for row in connection.execute("SELECT genre, count(*) FROM shelf WHERE genre <> '' GROUP BY genre")
    }
    known = dict(
        connection.execute(
            "SELECT w.word, w.tag_id FROM genre_word w JOIN tag t ON t.id = w.tag_id AND t.family_id = ?",
            (family_id,),
        ).fetchall()
    )
    own = {
        spelling_key(row["name"]): row["id"]
        for row in connection.execute("SELECT id, name FROM tag WHERE family_id = ?", (family_id,))
    }
    whole: dict[str, list[str]] = defaultdict(list)
    for genre in genres:
        for key in {spelling_key(word) for word in genre_words(genre)}:
            whole[key].append(genre)
    found = []
    for style in styles_of(genres):
        key = spelling_key(style.name)
        tag_id = known.get(key, own.get(key))
        missing = _missing(connection, whole[key], tag_id)
        found.append(Offer(style.name, style.spellings, tag_id, missing))
    return found


def take(connection: sqlite3.Connection, family_id: int, mapping: Mapping[str, str]) -> int:
    """Give tracks the style tags that their genre words stand for, and remember what stands for what.

    Args:
        mapping: for any spelling of each style that is taken, the name of its tag.

    Returns:
        How many tracks got a tag they did not have.
    """
    names = {spelling_key(word): name for word, name in mapping.items()}
    wanted: dict[str, int] = {}
    for key, name in names.items():
        wanted[key] = tags.make_tag(connection, family_id, name)
        connection.execute(
            "INSERT INTO genre_word (word, tag_id) VALUES (?, ?) "
            "ON CONFLICT (word) DO UPDATE SET tag_id = excluded.tag_id",
            (key, wanted[key]),
        )
    given: set[int] = set()
    for row in connection.execute("SELECT DISTINCT genre FROM shelf WHERE genre <> ''").fetchall():
        for tag_id in {wanted[key] for word in genre_words(row[0]) if (key := spelling_key(word)) in wanted}:
            given |= _give(connection, tag_id, row[0])
    flat.settle(connection, sorted(given), ["track_tag"])
    return len(given)


_LACKS = """FROM shelf s WHERE s.genre IN (SELECT value FROM json_each(?1))
  AND NOT EXISTS (SELECT 1 FROM track_tag x WHERE x.tag_id = ?2 AND x.track_id = s.id)
  AND NOT EXISTS (SELECT 1 FROM track_lock l WHERE l.track_id = s.id AND l.part = 'tags')"""


def _missing(connection: sqlite3.Connection, genres: list[str], tag_id: int | None) -> int:
    return int(connection.execute(f"SELECT count(*) {_LACKS}", (json.dumps(genres), tag_id)).fetchone()[0])


def _give(connection: sqlite3.Connection, tag_id: int, genre: str) -> set[int]:
    lacking = {row[0] for row in connection.execute(f"SELECT s.id {_LACKS}", (json.dumps([genre]), tag_id))}
    connection.execute(
        "INSERT INTO track_tag (tag_id, track_id) SELECT ?, value FROM json_each(?)",
        (tag_id, json.dumps(sorted(lacking))),
    )
    return lacking
