"""Which tracks meet conditions, as a truth for each id: for counting much over the same library."""

from __future__ import annotations

import sqlite3
from functools import reduce

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rules.conditions import AllOf, AnyOf, Between, Condition, FirstOf, NoneOf
from vinyl.library.conditions import compile_condition, order_terms

Truth = NDArray[np.bool_]


class Held:
    """Answers for one state of the library; what conditions are made of is asked for once.

    Args:
        many: whether so many conditions will be asked that it is worth having whole columns.
    """

    def __init__(self, connection: sqlite3.Connection, many: bool = False) -> None:
        self._connection = connection
        self._many = many
        self._size = 1 + int(connection.execute("SELECT coalesce(max(id), 0) FROM shelf").fetchone()[0])
        self._known: dict[Condition, Truth] = {}
        self._columns: dict[str, NDArray[np.float64]] = {}
        self._orders: dict[str, NDArray[np.int64]] = {}
        self._there = self._asked(AllOf())
        self.library = int(self._there.sum())

    def meet(self, condition: Condition) -> Truth:
        """Shape (highest id + 1,): whether each track meets a condition, in which lists are spelt out
        (vinyl.library.rule_lists.expanded).
        """
        match condition:
            case AllOf(parts):
                return reduce(np.logical_and, map(self.meet, parts), self._there)
            case AnyOf(parts):
                return reduce(np.logical_or, map(self.meet, parts), np.zeros_like(self._there))
            case NoneOf(parts):
                return self._there & ~self.meet(AnyOf(parts))
        if condition not in self._known:
            self._known[condition] = self._find(condition)
        return self._known[condition]

    def duration_s(self, truth: Truth) -> float:
        """How long tracks play together."""
        return float(self._column("duration_s")[truth].sum())

    def _find(self, condition: Condition) -> Truth:
        if isinstance(condition, FirstOf):
            order = self._order(order_terms(condition))
            found = order[self.meet(condition.where)[order]][: condition.count]
            truth = np.zeros(self._size, np.bool_)
            truth[found] = True
            return truth
        if self._many and isinstance(condition, Between):
            return self._between(condition)
        return self._asked(condition)

    def _between(self, condition: Between) -> Truth:
        values = self._column(condition.field)
        truth: Truth = ~np.isnan(values)
        if condition.low is not None:
            truth &= values >= condition.low
        if condition.high is not None:
            truth &= values <= condition.high
        return truth

    def _column(self, name: str) -> NDArray[np.float64]:
        if name not in self._columns:
            # One text a column is faster than a row a track; quoted, numbers keep all their digits.
            value = f"CASE WHEN shelf.{name} IS NULL THEN 'nan' ELSE quote(shelf.{name}) END"
            ids, values = self._connection.execute(
                f"SELECT group_concat(id), group_concat({value}) FROM shelf"
            ).fetchone()
            column = np.full(self._size, np.nan)
            column[np.fromstring(ids or "", np.int64, sep=",")] = np.fromstring(values or "", sep=",")
            self._columns[name] = column
        return self._columns[name]

    def _order(self, terms: str) -> NDArray[np.int64]:
        """All ids in an order."""
        if terms not in self._orders:
            ordered = f"SELECT group_concat(id) FROM (SELECT id FROM shelf ORDER BY {terms})"
            ids = self._connection.execute(ordered).fetchone()[0]
            self._orders[terms] = np.fromstring(ids or "", np.int64, sep=",")
        return self._orders[terms]

    def _asked(self, condition: Condition) -> Truth:
        where, values = compile_condition(condition)
        ids = self._connection.execute(f"SELECT group_concat(id) FROM shelf WHERE {where}", values)
        truth = np.zeros(self._size, np.bool_)
        truth[np.fromstring(ids.fetchone()[0] or "", np.int64, sep=",")] = True
        return truth
