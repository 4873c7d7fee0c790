"""Which of several files of one recording is best kept, by an order of reasons that the user sets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

Reason = Literal["sound", "work", "plays", "lists", "tags", "folder"]
REASONS: tuple[Reason, ...] = ("sound", "work", "plays", "lists", "tags", "folder")
WORDS = {
    "sound": "the better sound",
    "work": "the most work done on it",
    "plays": "the most plays",
    "lists": "the most places in lists",
    "tags": "the most tags and stars",
    "folder": "the folder that comes first",
}


@dataclass(frozen=True, slots=True)
class Candidate:
    """What speaks for a file: each figure is better the greater it is; ``folder`` is 0 for one that nothing
    is said of, and the greater the earlier it is named.
    """

    track_id: int
    there: bool
    lossless: bool
    damages: int
    bit_rate: int
    work: int = 0
    plays: int = 0
    lists: int = 0
    tags: int = 0
    folder: int = 0

    def worth(self, reason: Reason) -> tuple[int, ...]:
        """How much a reason speaks for it."""
        if reason == "sound":
            return (
                -min(self.damages, 1),
                self.lossless,
                -self.damages,
                0 if self.lossless else self.bit_rate,
            )
        return (int(getattr(self, reason)),)


def propose(candidates: Sequence[Candidate], order: Sequence[Reason] = REASONS) -> tuple[int, str]:
    """The file to keep and why: the first reason in which one is better than all others, the oldest if there
    is none. A file that is not there is kept only if none is.
    """
    left = [each for each in candidates if each.there] or list(candidates)
    if len(left) == 1:
        return left[0].track_id, "the only file that is there" if len(
            candidates
        ) > 1 else "the one on the Shelf"
    for reason in order:
        best = max(each.worth(reason) for each in left)
        fewer = [each for each in left if each.worth(reason) == best]
        if len(fewer) == 1:
            return fewer[0].track_id, WORDS[reason]
        left = fewer
    return min(each.track_id for each in left), "the same in all; it was there first"
