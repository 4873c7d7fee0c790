"""What is left to do on a track before it is prepared."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

# Up to this doubt a grid counts as sure; a key from this chance on that it is exact.
LARGEST_GRID_DOUBT = 0.3
LEAST_KEY_CONFIDENCE = 0.5

GridRule = Literal["sure", "by hand or locked", "locked", "any"]
Part = Literal["grid", "key", "cues", "tags"]
LOCKABLE: tuple[Part, ...] = ("grid", "cues", "key", "tags")


@dataclass(frozen=True, slots=True)
class FinishRules:
    """When a track counts as prepared. ``grid`` and ``key`` may be settled by a lock; ``cues`` is how many,
    ``roles`` which of them.
    """

    grid: GridRule = "sure"
    key: bool = True
    cues: int = 1
    roles: tuple[str, ...] = ()
    stars: bool = False


@dataclass(frozen=True, slots=True)
class Preparation:
    """How far a track is."""

    grid_doubt: float | None
    grid_by_hand: bool
    key: str | None
    key_confidence: float | None
    cues: int
    roles: frozenset[str]
    stars: int
    locks: frozenset[str]


def what_is_left(track: Preparation, rules: FinishRules) -> list[Part]:
    """The parts that the rules find wanting, in the order of the work; nothing is left of a
    finished track."""
    left: list[Part] = []
    if not _grid_done(track, rules.grid):
        left.append("grid")
    if (
        rules.key
        and "key" not in track.locks
        and (track.key is None or (track.key_confidence or 0.0) < LEAST_KEY_CONFIDENCE)
    ):
        left.append("key")
    if track.cues < rules.cues or not track.roles.issuperset(rules.roles):
        left.append("cues")
    if rules.stars and not track.stars:
        left.append("tags")
    return left


def _grid_done(track: Preparation, rule: GridRule) -> bool:
    if "grid" in track.locks or rule == "any":
        return True
    if rule == "locked":
        return False
    if track.grid_by_hand:
        return True
    return rule == "sure" and track.grid_doubt is not None and track.grid_doubt < LARGEST_GRID_DOUBT
