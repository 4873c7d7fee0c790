"""What another library holds, whatever its format: cards as they come, then lists and plays."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Protocol

from vinyl.core.carrying.card import Card
from vinyl.core.carrying.collection import Node, Play

MOST_DEPTH = 60


@dataclass
class Told:
    """What a library tells beside its cards; whole once all of them were read.

    ``problems`` say in words what could not be read.
    """

    lists: tuple[Node, ...] = ()
    plays: tuple[Play, ...] = ()
    problems: list[str] = field(default_factory=list)


class Reader(Protocol):
    """A library that is open for reading; keys name its cards in its lists and plays."""

    told: Told

    def cards(self) -> Iterator[tuple[str, Card]]:
        """All cards with their keys, each once."""
        ...


@dataclass(frozen=True, slots=True)
class Place:
    """Where a library of a kind lies: what is opened, and the folder that relative paths start from."""

    opened: Path
    base: Path


@dataclass(frozen=True, slots=True)
class Branch:
    """A list or a folder of a library that tells by ids what stands in what; a folder without its inner."""

    id: object
    parent: object
    node: Node


def nest(branches: Iterable[Branch], problems: list[str]) -> tuple[Node, ...]:
    """Lists in their folders, in the order told. What cannot be placed is left out and said: a folder that is
    told again, as it could stand within itself, what stands too deep, and what stands in no folder told.
    """
    within: dict[object, list[Branch]] = {}
    for branch in branches:
        within.setdefault(branch.parent, []).append(branch)
    told: set[object] = set()

    def filled(branch: Branch, depth: int) -> Node | None:
        if branch.node.kind != "folder":
            return branch.node
        if branch.id in told or depth >= MOST_DEPTH:
            problems.append(
                f"The folder “{branch.node.name[:80]}” was left out: it is told twice, or too deep."
            )
            return None
        told.add(branch.id)
        return replace(branch.node, inner=all_in(branch.id, depth + 1))

    def all_in(parent: object, depth: int) -> tuple[Node, ...]:
        found = (filled(branch, depth) for branch in within.get(parent, ()))
        return tuple(node for node in found if node is not None)

    nested = all_in(None, 0)
    lost = sum(len(inner) for parent, inner in within.items() if parent is not None and parent not in told)
    if lost:
        problems.append(f"{lost} lists were left out: the folders that they stand in are not told.")
    return nested
