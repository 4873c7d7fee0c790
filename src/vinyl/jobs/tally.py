"""Counting what becomes of values while a ledger is made."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any

from vinyl.core.carrying.outcomes import Outcome
from vinyl.core.carrying.paths import mapped
from vinyl.exchange.desk import Desk
from vinyl.exchange.order import Order
from vinyl.exchange.weighing import Weighed


class Tally:
    """Counts of a ledger while it is made."""

    def __init__(self, order: Order) -> None:
        self._order = order
        self._counts: Counter[tuple[str, str]] = Counter()
        self._states: Counter[str] = Counter()
        self._later: Counter[str] = Counter()
        self._mapped: Counter[str] = Counter()
        self._off_ms: dict[str, float] = {}

    @property
    def tracks(self) -> int:
        """How many tracks were counted."""
        return sum(self._states.values())

    def take_lists(self, desk: Desk, outcomes: Sequence[Outcome]) -> None:
        """Count what becomes of lists."""
        for outcome in outcomes:
            self._counts[outcome.kind, outcome.fate] += 1
        desk.put_outcomes(None, "", [each for each in outcomes if each.fate != "as it is"])

    def take(self, desk: Desk, weighed: Sequence[Weighed]) -> None:
        """Count what becomes of tracks, and put their cards on a desk."""
        desk.db.execute("BEGIN")
        for each in weighed:
            self._one(desk, each)
        desk.db.execute("COMMIT")

    def _one(self, desk: Desk, each: Weighed) -> None:
        outcomes = list(each.outcomes)
        n = None
        if each.told is not None:
            cursor = desk.db.execute(
                "INSERT OR IGNORE INTO card (key, path_key, path, title, told, marks, state) "
                "VALUES (?, ?, ?, ?, ?, ?, ?)",
                (each.key, each.path_key, each.path, each.title, each.told, each.marks, each.state),
            )
            n = cursor.lastrowid if cursor.rowcount else None
        if each.told is not None and n is None:
            why = "another track has this path there, which knows no difference of upper and lower case"
            outcomes = [Outcome("files", "left here", "track", each.path, "", why)]
        else:
            for kind, number in each.as_it_is.items():
                self._counts[kind, "as it is"] += number
            self._later.update(each.later)
            if each.theirs_n is not None:
                desk.db.execute("UPDATE theirs SET used = 1 WHERE n = ?", (each.theirs_n,))
        self._states[each.state] += 1
        self._mapped[_beginning(each.path, self._order)] += 1
        desk.put_outcomes(n, each.title, outcomes)
        for outcome in outcomes:
            if outcome.fate != "as it is":
                self._counts[outcome.kind, outcome.fate] += 1
                name = f"{outcome.kind} {outcome.fate}"
                self._off_ms[name] = max(self._off_ms.get(name, 0.0), outcome.off_ms)

    def told(self) -> dict[str, Any]:
        """The counts in plain form."""
        return {
            "counts": [[kind, fate, number] for (kind, fate), number in sorted(self._counts.items())],
            "off_ms": self._off_ms,
            "states": dict(self._states),
            "later": dict(self._later),
            "mapped": dict(self._mapped),
            "tracks": self.tracks,
        }


def _beginning(path: str, order: Order) -> str:
    mapping = mapped(path, order.mappings)[1]
    return mapping.here if mapping else ""
