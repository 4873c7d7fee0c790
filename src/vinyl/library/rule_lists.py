"""Crates that fill themselves: their rules, what these find, and why a track is in one or not."""

from __future__ import annotations

import json
import logging
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rules.conditions import (
    AllOf,
    AnyOf,
    Condition,
    FirstOf,
    InList,
    Joined,
    Named,
    OverBacking,
    Tagged,
    explain,
    told_value,
    validate,
)
from vinyl.core.rules.notation import Rule, rule_as_json, rule_from_json
from vinyl.library.conditions import Sql, compile_condition
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.held import Held
from vinyl.library.references import to_gids, to_ids
from vinyl.library.sorts import SORTS

log = logging.getLogger(__name__)
NO_RULE = "“{}” is filled by hand and has no rule."
# Lists that fill themselves, within one another, that one question may ask for.
MOST_LISTS = 500
# The way to a part of a condition: which part of the whole, which part of that.
Path = tuple[int, ...]
FILLS_ITSELF = "“{}” fills itself: change its rule, or freeze it into a crate of its own."


def get_rule(connection: sqlite3.Connection, list_id: int) -> Rule | None:
    """The rule of a list; None for one that is filled by hand, and for one that is gone."""
    row = connection.execute("SELECT rule FROM crate WHERE id = ?", (list_id,)).fetchone()
    return _rule_of(connection, row[0]) if row and row[0] else None


def _rule_of(connection: sqlite3.Connection, kept: str) -> Rule:
    return rule_from_json(to_ids(connection, json.loads(kept)))


def put_rule(connection: sqlite3.Connection, list_id: int, rule: Rule) -> None:
    """Let a rule fill a list from now on.

    Raises:
        ConditionError: for a rule that makes no sense.
        LibraryError: for one that goes round in a circle, or is sorted by what there is not.
    """
    validate(condition_of(rule))
    for name, _ in rule.order:
        if name not in SORTS:
            raise LibraryError(f"Lists cannot be sorted by “{name}”.")
    kept = json.dumps(to_gids(connection, rule_as_json(rule)))
    connection.execute("UPDATE crate SET rule = ? WHERE id = ?", (kept, list_id))
    expanded(connection, InList(list_id))


def condition_of(rule: Rule) -> Condition:
    """What a track must meet to be in the list that a rule fills."""
    return rule.where if rule.limit is None else FirstOf(rule.where, rule.order, rule.limit)


def refuse_by_hand(connection: sqlite3.Connection, list_id: int) -> None:
    """Refuse to change by hand what a rule fills, and to put tracks into a folder.

    Raises:
        LibraryError: for a list with a rule, and for a folder.
        NotFoundError: if it is gone.
    """
    row = connection.execute("SELECT is_folder, name FROM crate WHERE id = ?", (list_id,)).fetchone()
    if row is None:
        raise NotFoundError("This crate is no longer there.")
    if row["is_folder"]:
        raise LibraryError(f"“{row['name']}” is a folder: put tracks into a crate in it.")
    if get_rule(connection, list_id) is not None:
        raise LibraryError(FILLS_ITSELF.format(_name(connection, list_id)))


def compiled(connection: sqlite3.Connection, condition: Condition, row_by_row: bool = False) -> Sql:
    """A condition as SQL (vinyl.library.conditions), lists that fill themselves spelt out.

    Raises:
        ConditionError: for a condition that makes no sense.
        LibraryError: for one that goes round in a circle.
    """
    return compile_condition(expanded(connection, validate(condition)), row_by_row)


def expanded(connection: sqlite3.Connection, condition: Condition) -> Condition:
    """A condition with what fills a list in place of each list that fills itself.

    Raises:
        LibraryError: if a list asks for itself, however far around, in words that say how; and if lists ask
            for so many lists that nobody could wait for an answer.
    """
    return _Expansion(connection).of(condition, ())


class _Expansion:
    def __init__(self, connection: sqlite3.Connection) -> None:
        self._connection = connection
        self._lists = 0

    def of(self, condition: Condition, path: Path) -> Condition:
        if isinstance(condition, InList):
            return self._of_list(condition, path)
        if isinstance(condition, Joined):
            return replace(condition, parts=tuple(self.of(part, path) for part in condition.parts))
        if isinstance(condition, FirstOf):
            return replace(condition, where=self.of(condition.where, path))
        return condition

    def _of_list(self, condition: InList, path: Path) -> Condition:
        inner = self._filled_by(condition.list_id)
        if inner is None:
            return condition
        if condition.list_id in path:
            raise LibraryError(_circle(self._connection, (*path, condition.list_id)))
        self._lists += 1
        if self._lists > MOST_LISTS:
            raise LibraryError(f"This asks for more than {MOST_LISTS} crates that fill themselves.")
        return self.of(inner, (*path, condition.list_id))

    def _filled_by(self, list_id: int) -> Condition | None:
        """What a list holds that is not filled by hand; a folder holds what its lists hold."""
        row = self._connection.execute(
            "SELECT rule, is_folder FROM crate WHERE id = ?", (list_id,)
        ).fetchone()
        if row is None or not (row["rule"] or row["is_folder"]):
            return None
        if row["rule"]:
            return condition_of(_rule_of(self._connection, row["rule"]))
        lists = self._connection.execute("SELECT id FROM crate WHERE folder_id = ?", (list_id,))
        return AnyOf(tuple(InList(each[0]) for each in lists))


def _circle(connection: sqlite3.Connection, path: Path) -> str:
    around = path[path.index(path[-1]) :]
    told = ", which asks for ".join(f"“{_name(connection, each)}”" for each in around)
    return f"This goes round in a circle: {told}."


@dataclass(frozen=True, slots=True)
class Line:
    """One part of a rule: where it stands in the tree, what it says, how many tracks it holds alone, and,
    for those that the whole asks for one after the other, how many are left with it and all before.
    """

    path: Path
    words: str
    alone: int
    left: int | None


@dataclass(frozen=True, slots=True)
class Counted:
    """The lines of a rule, and how many tracks all of it holds, of how many.

    Where it holds none, ``emptied_by`` is the first of its parts with which nothing is left, and
    ``without`` how many there would be without that part.
    """

    lines: list[Line]
    total: int
    library: int
    emptied_by: int | None = None
    without: int = 0


def count_lines(connection: sqlite3.Connection, condition: Condition) -> Counted:
    """How many tracks each part of a condition holds; each of its ends is asked for once."""
    whole = whole_of(condition)
    held = Held(connection)

    def count(part: Condition) -> int:
        return int(held.meet(expanded(connection, validate(part))).sum())

    left = [count(AllOf(whole.parts[: place + 1])) for place in range(len(whole.parts))]
    lines = [
        Line(path, said(connection, part), count(part), left[path[0]] if len(path) == 1 else None)
        for path, part in _parts(whole)
    ]
    if 0 not in left:
        return Counted(lines, count(whole), held.library)
    empty = left.index(0)
    others = AllOf((*whole.parts[:empty], *whole.parts[empty + 1 :]))
    return Counted(lines, 0, held.library, empty, count(others))


# The number of tracks and the playing time of lists, by their ids.
Counts = dict[int, tuple[int, float]]


@dataclass(frozen=True, slots=True)
class Filled:
    """What lists that fill themselves and folders hold: how much, and of the lists, which tracks: a bit for
    each id from 0 on.
    """

    counts: Counts = field(default_factory=dict)
    members: dict[int, NDArray[np.uint8]] = field(default_factory=dict)

    def lists_of(self, track_ids: Sequence[int]) -> dict[int, list[int]]:
        """Ids of the lists that hold each of some tracks."""
        ids = np.array(track_ids, np.int64)
        found: dict[int, list[int]] = {}
        for list_id, bits in self.members.items():
            known = ids[ids // 8 < len(bits)]
            for track_id in known[(bits[known // 8] >> (7 - known % 8)) & 1 == 1].tolist():
                found.setdefault(track_id, []).append(list_id)
        return found


def fill_lists(connection: sqlite3.Connection) -> Filled:
    """What each list that fills itself, and each folder, holds; those that ask for too much are left out."""
    rows = connection.execute(
        "SELECT id, is_folder FROM crate WHERE rule IS NOT NULL OR is_folder ORDER BY position, id"
    ).fetchall()
    filled = Filled()
    if not rows:
        return filled
    held = Held(connection, many=True)
    for row in rows:
        try:
            truth = held.meet(expanded(connection, InList(row["id"])))
            filled.counts[row["id"]] = int(truth.sum()), held.duration_s(truth)
            if not row["is_folder"]:
                filled.members[row["id"]] = np.packbits(truth)
        except LibraryError:
            continue
        except Exception:
            log.exception("The list %s could not be counted; the others are", row["id"])
    return filled


def count_lists(connection: sqlite3.Connection) -> Counts:
    """How many tracks are in each list that fills itself, and each folder, and how long they play."""
    return fill_lists(connection).counts


def whole_of(condition: Condition) -> AllOf:
    """A condition as one that always asks for all of its parts, as rules are shown."""
    return condition if isinstance(condition, AllOf) else AllOf((condition,))


def _parts(joined: Joined, path: Path = ()) -> list[tuple[Path, Condition]]:
    """All parts below a condition, each with the way to it, as they are read."""
    found: list[tuple[Path, Condition]] = []
    for place, part in enumerate(joined.parts):
        found.append(((*path, place), part))
        if isinstance(part, Joined):
            found += _parts(part, (*path, place))
    return found


def said(connection: sqlite3.Connection, condition: Condition) -> str:
    """A condition in words, with the names of what it is about."""
    return explain(condition, partial(name_of, connection))


def name_of(connection: sqlite3.Connection, named: Named) -> str | None:
    """What the thing is called that a condition is about; None if it is gone."""
    tables = {InList: ("crate", "list_id"), Tagged: ("tag", "tag_id"), OverBacking: ("backing", "backing_id")}
    table, field = tables.get(type(named), ("venue", "venue_id"))
    row = connection.execute(f"SELECT name FROM {table} WHERE id = ?", (getattr(named, field),)).fetchone()
    return str(row[0]) if row else None


@dataclass(frozen=True, slots=True)
class Reason:
    """Whether a track meets one part of a rule, and what it has of that which the part is about."""

    path: Path
    words: str
    holds: bool
    has: str | None


def why(connection: sqlite3.Connection, condition: Condition, track_id: int) -> list[Reason]:
    """Each part of a condition, and whether a track meets it; the whole comes first, with an empty path."""
    whole = whole_of(condition)
    parts = [((), whole), *_parts(whole)]
    columns, values = [], []
    for _, part in parts:
        sql, given = compiled(connection, part, row_by_row=True)
        columns.append(sql)
        values += given
    row = connection.execute("SELECT * FROM shelf WHERE id = ?", (track_id,)).fetchone()
    if row is None:
        raise NotFoundError("This track is no longer in the library.")
    facts = {**dict(row), "nights": nights_of(connection, track_id)}
    sql = f"SELECT {', '.join(columns)} FROM shelf WHERE shelf.id = ?"
    row = connection.execute(sql, [*values, track_id]).fetchone()
    return [
        Reason(path, said(connection, part), bool(holds), told_value(part, facts))
        for (path, part), holds in zip(parts, tuple(row), strict=True)
    ]


def nights_of(connection: sqlite3.Connection, track_id: int) -> list[tuple[int | None, str]]:
    """At which venues a track was played, and on which days; practice does not count."""
    rows = connection.execute(
        """SELECT g.venue_id, coalesce(g.on_day, p.on_day) FROM play p LEFT JOIN gig g ON g.id = p.gig_id
           WHERE p.track_id = ? AND coalesce(g.practice, 0) = 0""",
        (track_id,),
    )
    return [(row[0], row[1]) for row in rows]


def _name(connection: sqlite3.Connection, list_id: int) -> str:
    row = connection.execute("SELECT name FROM crate WHERE id = ?", (list_id,)).fetchone()
    return str(row[0]) if row else "a crate that is gone"
