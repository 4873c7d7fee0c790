"""What another library holds, whatever its format: cards as they come, then lists and plays."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

from vinyl.core.carrying.card import Card
from vinyl.core.carrying.collection import Node, Play


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
