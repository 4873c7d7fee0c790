"""Groups of files that hold one recording, and which of them are versions of one work."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, TypeVar

from vinyl.core.likeness.compare import Match, Relation
from vinyl.core.twins.alignment import Alignment

# Twins that agree so far, so evenly, and differ so little as they sound, need not be listened to.
SURE_LIKENESS, SURE_UNEVENNESS, SURE_DIFFERENCE = 0.7, 0.9, 0.75
# What differs more as it sounds is another version; what lies between is left to the user.
LARGEST_DIFFERENCE = 1.5
# How a pair was found.
Evidence = Literal["same sound", "sound", "file name", "artist and title"]

Item = TypeVar("Item", bound=Hashable)


@dataclass(frozen=True, slots=True)
class Pair:
    """Two tracks that may be twins: how they were found, how their sound compares, where the first's times
    lie in the second, if that is known, and how far the files differ where both were listened to;
    ``unheard`` is why they could not be.
    """

    first: int
    second: int
    evidence: frozenset[Evidence]
    match: Match
    alignment: Alignment | None = None
    difference: float | None = None
    unheard: str = ""

    @property
    def relation(self) -> Relation:
        return self.match.relation

    @property
    def likeness(self) -> float:
        """From 0 to 1: how much of the sound agrees, and how well."""
        return self.match.covered * (1.0 - 2.0 * self.match.bit_error)

    @property
    def is_sure(self) -> bool:
        """Whether one may take the other's place without the user listening to both."""
        return (
            self.relation == "same"
            and self.alignment is not None
            and self.alignment.speed == 1.0
            and self.likeness >= SURE_LIKENESS
            and self.match.unevenness <= SURE_UNEVENNESS
            and self.difference is not None
            and self.difference <= SURE_DIFFERENCE
        )


@dataclass(frozen=True, slots=True)
class Group:
    """Files of one recording, by the tracks' ids, with the pairs that say so; ``versions`` are other groups'
    first tracks that are edits of it or lie over its backing.
    """

    track_ids: tuple[int, ...]
    pairs: tuple[Pair, ...]
    versions: Mapping[int, Relation]


def make_groups(pairs: Sequence[Pair]) -> list[Group]:
    """Groups of the tracks that are the same recording, those of one track for what has versions only; the
    largest first.
    """
    same = [pair for pair in pairs if pair.relation == "same"]
    linked = [pair for pair in pairs if pair.relation in ("edit", "same backing")]
    leader = _joined((pair.first, pair.second) for pair in same)
    members: dict[int, set[int]] = {}
    for pair in (*same, *linked):
        for track_id in (pair.first, pair.second):
            members.setdefault(leader.get(track_id, track_id), set()).add(track_id)
    versions: dict[int, dict[int, Relation]] = {first: {} for first in members}
    for pair in linked:
        ends = [leader.get(track_id, track_id) for track_id in (pair.first, pair.second)]
        if ends[0] != ends[1]:
            versions[ends[0]].setdefault(ends[1], pair.relation)
            versions[ends[1]].setdefault(ends[0], pair.relation)
    groups = [
        Group(
            tuple(sorted(held)),
            tuple(pair for pair in same if pair.first in held),
            versions[first],
        )
        for first, held in members.items()
    ]
    return sorted(groups, key=lambda group: (-len(group.track_ids), group.track_ids))


def _joined(pairs: Iterable[tuple[Item, Item]]) -> dict[Item, Item]:
    """The smallest of all that hang together, for each (union and find; Tarjan, 1975)."""
    parent: dict[Item, Item] = {}

    def root(item: Item) -> Item:
        while parent.setdefault(item, item) != item:
            parent[item] = parent[parent[item]]
            item = parent[item]
        return item

    for one, other in pairs:
        low, high = sorted((root(one), root(other)))  # type: ignore[type-var]
        parent[high] = low
    return {item: root(item) for item in parent}
