"""What becomes of each value that is carried: it stays as it is, is changed, or is left here."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

Fate = Literal["as it is", "changed", "left here"]
FATES: tuple[Fate, ...] = get_args(Fate)
Kind = Literal[
    "files", "paths", "texts", "grid, steady", "grid, stepped", "grid, elastic", "cues", "loops", "colours",
    "key", "stars", "energy", "comment", "plays", "tags", "marks", "routes", "locks", "lists", "rule lists",
]  # fmt: skip
KINDS: tuple[Kind, ...] = get_args(Kind)


@dataclass(frozen=True, slots=True)
class Outcome:
    """What becomes of one value: as it is here, as it is there, and why where that is not the same.

    ``option`` is the choice that decides it, or empty; ``off_ms`` how far a grid is off at most.
    """

    kind: Kind
    fate: Fate
    what: str
    here: str = ""
    there: str = ""
    why: str = ""
    option: str = ""
    off_ms: float = 0.0
