"""Lines that several rules have in common: what they are, and one added, changed or taken away in all."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from vinyl.core.rules.conditions import AllOf, Condition, simplified
from vinyl.library import crates
from vinyl.library.errors import LibraryError
from vinyl.library.rule_lists import get_rule, put_rule, said, whole_of


@dataclass(frozen=True, slots=True)
class SharedLine:
    """A line of rules: in words, and in how many of them it stands."""

    where: Condition
    words: str
    rules: int


def shared_lines(connection: sqlite3.Connection, crate_ids: Sequence[int]) -> list[SharedLine]:
    """The lines of some rules, those that most of them have first."""
    counted: Counter[Condition] = Counter()
    for crate_id in crate_ids:
        counted.update(set(_lines(connection, crate_id)))
    found = [SharedLine(line, said(connection, line), count) for line, count in counted.items()]
    return sorted(found, key=lambda line: (-line.rules, line.words))


def change_lines(
    connection: sqlite3.Connection, crate_ids: Sequence[int], old: Condition | None, new: Condition | None
) -> int:
    """Add a line to rules (``new`` alone), take one away (``old`` alone), or put one in another's place where
    that stands. Returns how many rules are others now.

    Raises:
        ConditionError, LibraryError: if one of them would make no sense; none is changed then, as far as the
            caller rolls back.
    """
    if old is None and new is None:
        raise LibraryError("Say which line is to be added, changed or taken away.")
    old, new = (each if each is None else simplified(each) for each in (old, new))
    return sum(_change(connection, crate_id, old, new) for crate_id in dict.fromkeys(crate_ids))


def _lines(connection: sqlite3.Connection, crate_id: int) -> tuple[Condition, ...]:
    rule = get_rule(connection, crate_id)
    return () if rule is None else whole_of(simplified(rule.where)).parts


def _change(
    connection: sqlite3.Connection, crate_id: int, old: Condition | None, new: Condition | None
) -> bool:
    rule, lines = get_rule(connection, crate_id), _lines(connection, crate_id)
    if rule is None or (old is not None and old not in lines):
        return False
    if old is None:
        changed = lines if new in lines else (*lines, new)
    else:
        put = (new,) if new is not None and new not in lines else ()
        at = lines.index(old)
        changed = (*lines[:at], *put, *lines[at + 1 :])
    if changed == lines:
        return False
    parts = tuple(line for line in changed if line is not None)
    crates.get_crate(connection, crate_id)
    put_rule(connection, crate_id, replace(rule, where=AllOf(parts)))
    return True
