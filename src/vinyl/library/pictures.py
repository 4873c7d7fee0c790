"""Counts for the pictures above the Shelf: how many of the found tracks lie where.

What is counted of a track is packed into one number while the rows are looked through, so that all pictures
are counted in one pass over narrow rows.
"""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rules.conditions import AllOf, Condition, without
from vinyl.library.conditions import for_scan
from vinyl.library.rule_lists import compiled

ENERGY_STEP = 10
MOST_PLAYS = 20
COLOURS = ("vermilion", "violet", "blue", "ochre", "green", "ink")
ALL = AllOf()
# Stands between texts that are fetched as one: a sign for parting units, which no text has.
APART = "\x1f"
JOINED = "group_concat({}, char(31))"

PictureName = Literal["bpm", "key", "genre", "month", "rating", "energy", "year", "colour", "plays"]
Counts = dict[str, dict[Any, int]]


@dataclass(frozen=True, slots=True)
class Packed:
    """What a picture counts: an SQL whole number of so many bits, ``none`` where nothing is known, and what a
    number stands for. ``about`` is what a condition on it is about; ``indexed`` what has an index.
    """

    about: str
    sql: str
    bits: int
    indexed: str
    none: int | None = 0
    value: Callable[[int], Any] = int


def _month(number: int) -> str:
    return f"{(number - 1) // 12:04}-{(number - 1) % 12 + 1:02}"


_MONTH_SQL = "CAST(substr(added_at, 1, 4) AS INTEGER) * 12 + CAST(substr(added_at, 6, 2) AS INTEGER)"
_WHENS = " ".join(f"WHEN '{colour}' THEN {place + 1}" for place, colour in enumerate(COLOURS))
_COLOUR_SQL = f"CASE colour {_WHENS} ELSE 0 END"
_STEP_SQL = f"min(energy, 99) / {ENERGY_STEP}"
PACKED: Mapping[str, Packed] = {
    "bpm": Packed("bpm", "CAST(coalesce(bpm, 0) AS INTEGER)", 10, "CAST(bpm AS INTEGER)"),
    "key": Packed("key", "coalesce(key_place, 31)", 5, "key", 31),
    "month": Packed("added_at", _MONTH_SQL, 16, "substr(added_at, 1, 7)", 0, _month),
    "rating": Packed("rating", "rating", 3, "rating", None),
    "energy": Packed("energy", f"coalesce({_STEP_SQL}, 15)", 4, f"{_STEP_SQL} * {ENERGY_STEP}", 15),
    "year": Packed("year", "coalesce(max(min(year, 4095), 0), 0)", 12, "year"),
    "colour": Packed("colour", _COLOUR_SQL, 3, "nullif(colour, '')", 0, lambda number: COLOURS[number - 1]),
    "plays": Packed("plays", f"min(plays, {MOST_PLAYS})", 5, "plays", None),
}
PICTURES: tuple[PictureName, ...] = (
    "bpm", "key", "genre", "month", "rating", "energy", "year", "colour", "plays",
)  # fmt: skip


def count_pictures(
    connection: sqlite3.Connection,
    condition: Condition,
    names: Sequence[PictureName] = PICTURES,
    tags: bool = False,
) -> Counts:
    """For each picture how many of the found tracks lie where: whole bpm, key, genre, month of arrival,
    stars, energy, year, colour, plays; and with ``tags`` how many have each tag.

    Each picture but that of the tags leaves the parts of the condition that are about itself out, so that it
    can be widened.
    """
    alike: dict[Condition, list[PictureName]] = {condition: []} if tags else {}
    names = tuple(dict.fromkeys(names))
    for name in names:
        about = PACKED[name].about if name in PACKED else name
        alike.setdefault(without(condition, about), []).append(name)
    counts: Counts = {name: {} for name in names}
    for limited, together in alike.items():
        with_tags = tags and limited == condition
        count = _count_all if limited == ALL else _count_found
        counts.update(count(connection, limited, together, with_tags))
    return counts


def _count_all(
    connection: sqlite3.Connection, _: Condition, names: Sequence[PictureName], tags: bool
) -> Counts:
    """Counts of the whole library, which the indexes have."""
    counts: Counts = {}
    for name in names:
        sql = PACKED[name].indexed if name in PACKED else name
        rows = connection.execute(f"SELECT {sql} AS value, count(*) FROM shelf GROUP BY value")
        counts[name] = {value: number for value, number in rows if value not in (None, "")}
    if "plays" in counts:
        often = sum(number for plays, number in counts["plays"].items() if plays >= MOST_PLAYS)
        less = {plays: number for plays, number in counts["plays"].items() if plays < MOST_PLAYS}
        counts["plays"] = less | ({MOST_PLAYS: often} if often else {})
    if tags:
        rows = connection.execute("SELECT tag_id, count(*) FROM track_tag GROUP BY tag_id")
        counts["tags"] = dict(rows.fetchall())
    return counts


def _count_found(
    connection: sqlite3.Connection, condition: Condition, names: Sequence[PictureName], tags: bool
) -> Counts:
    """Counts of what meets a condition, in one pass."""
    where, values = compiled(connection, condition)
    fields = [name for name in names if name in PACKED]
    texts = [name for name, wanted in (("genre", "genre" in names), ("tags", tags)) if wanted]
    # All of a column as one text: making a row of each track would take longer than finding them.
    columns = ", ".join([f"group_concat({_packed_sql(fields)})", *(JOINED.format(name) for name in texts)])
    sql = f"SELECT {columns} FROM shelf WHERE {for_scan(where)}"
    packed, *told = connection.execute(sql, values).fetchone()
    numbers = np.fromstring(packed or "", np.int64, sep=",")
    counts = _unpack(numbers, fields, _key_names(connection))
    found = {name: Counter((text or "").split(APART)) for name, text in zip(texts, told, strict=True)}
    if "genre" in found:
        counts["genre"] = {genre: number for genre, number in found["genre"].items() if genre}
    if "tags" in found:
        counts["tags"] = _count_tags(found["tags"])
    return counts


def _packed_sql(fields: Sequence[str]) -> str:
    sql, shift = "0", 0
    for name in fields:
        sql += f" + (({PACKED[name].sql}) << {shift})"
        shift += PACKED[name].bits
    return sql


def _unpack(packed: NDArray[np.int64], fields: Sequence[str], keys: Mapping[int, str]) -> Counts:
    counts: Counts = {}
    shift = 0
    for name in fields:
        field = PACKED[name]
        numbers = np.bincount((packed >> shift) & ((1 << field.bits) - 1))
        scale = ENERGY_STEP if name == "energy" else 1
        value = keys.__getitem__ if name == "key" else field.value
        counts[name] = {
            value(int(n) * scale): int(numbers[n]) for n in np.flatnonzero(numbers) if n != field.none
        }
        shift += field.bits
    return counts


def _count_tags(texts: Mapping[str, int]) -> dict[int, int]:
    counts: Counter[int] = Counter()
    for text, number in texts.items():
        for tag in filter(None, text.split(",")):
            counts[int(tag)] += number
    return dict(counts)


def _key_names(connection: sqlite3.Connection) -> dict[int, str]:
    return dict(connection.execute("SELECT place, key FROM key_place").fetchall())
