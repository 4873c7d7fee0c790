"""Twins among the tracks on the Shelf: found by sound, by name and by copies that were noted on arrival."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations, islice
from pathlib import PurePath

import numpy as np

from vinyl.core.likeness.descriptor import SIZE
from vinyl.core.likeness.fingerprint import Fingerprint
from vinyl.core.twins.groups import Evidence, Group, Pair, make_groups
from vinyl.core.twins.names import file_key, song_key
from vinyl.core.twins.neighbours import Matrix, near_pairs
from vinyl.core.twins.relating import Attacks, Sound, relate
from vinyl.core.twins.words import distinct_words, is_worth_a_look
from vinyl.library.likeness import FRAMES_PER_S

# Fingerprints that are held while pairs are compared.
HELD, TOLD_PAIRS = 4096, 500
# What more tracks are called is no name but a way of numbering, as "Track 1" is.
MOST_NAMESAKES = 12

Ids = tuple[int, int]
Candidate = tuple[Ids, frozenset[Evidence]]
# Attacks of a track, where they are at hand.
AttacksOf = Callable[[int], Attacks | None]


@dataclass(frozen=True, slots=True)
class Twins:
    """What was found: ``groups``; ``by_name`` are pairs that are called alike and do not sound so; ``copies``
    are the paths of files with the very sound of a track.
    """

    groups: tuple[Group, ...]
    by_name: tuple[Pair, ...]
    copies: Mapping[int, tuple[str, ...]]


def find_twins(
    connection: sqlite3.Connection,
    told: Callable[[int, int], None] = lambda done, total: None,
    attacks_of: AttacksOf = lambda track_id: None,
) -> Twins:
    """Find the twins among all tracks on the Shelf that were analysed; arguments as for ``find_pairs``."""
    return twins_of(connection, list(find_pairs(connection, told, attacks_of)))


def twins_of(connection: sqlite3.Connection, found: Sequence[Pair]) -> Twins:
    """The twins that some pairs make, with the copies that were noted."""
    by_name = tuple(pair for pair in found if pair.relation == "different")
    return Twins(tuple(make_groups(found)), by_name, _copies(connection))


def find_pairs(
    connection: sqlite3.Connection,
    told: Callable[[int, int], None] = lambda done, total: None,
    attacks_of: AttacksOf = lambda track_id: None,
    of: Sequence[int] | None = None,
) -> Iterator[Pair]:
    """Find pairs that may be twins among all tracks on the Shelf that were analysed.

    Args:
        connection: within a transaction, so that it is of one state of the library.
        told: is told now and then of how many pairs of how many were compared; may raise to end it.
        attacks_of: gives the attacks of a track, by which times in one are known in the other.
        of: only pairs of these tracks with others.
    """
    evidence = candidates(connection, of)
    for start in range(0, len(evidence), TOLD_PAIRS):
        told(start, len(evidence))
        yield from compare_pairs(connection, evidence[start : start + TOLD_PAIRS], attacks_of)


def candidates(connection: sqlite3.Connection, of: Sequence[int] | None = None) -> list[Candidate]:
    """Pairs that are worth comparing, in order, by an index of their sounds and by what they are called.

    Args:
        of: only pairs of these tracks with others.
    """
    among = None if of is None else frozenset(of)
    evidence: dict[Ids, set[Evidence]] = {}
    for kind, pairs in (
        ("sound", _by_sound(connection, among)),
        ("artist and title", _by_names(connection, "s.artist, s.title", song_key)),
        ("file name", _by_names(connection, "t.path", lambda path: file_key(PurePath(path).name))),
    ):
        for pair in pairs:
            if among is None or not among.isdisjoint(pair):
                evidence.setdefault(pair, set()).add(kind)  # type: ignore[arg-type]
    return [(pair, frozenset(kinds)) for pair, kinds in sorted(evidence.items())]


def _by_sound(connection: sqlite3.Connection, of: frozenset[int] | None) -> Iterator[Ids]:
    ids, descriptors = _descriptors(connection)
    rows = None if of is None else np.flatnonzero(np.isin(ids, list(of)))
    return ((int(ids[first]), int(ids[second])) for first, second in near_pairs(descriptors, rows))


def _descriptors(connection: sqlite3.Connection) -> tuple[np.ndarray[tuple[int], np.dtype[np.int64]], Matrix]:
    """Ids in order, and the descriptors of these tracks, put into their places as they come."""
    on_shelf = "FROM track_likeness l JOIN shelf s ON s.id = l.track_id"
    count = connection.execute(f"SELECT count(*) {on_shelf}").fetchone()[0]
    ids, descriptors = np.zeros(count, np.int64), np.zeros((count, SIZE), np.float32)
    rows = connection.execute(f"SELECT l.track_id, l.descriptor {on_shelf} ORDER BY l.track_id")
    for place, (track_id, blob) in enumerate(islice(rows, count)):
        ids[place], descriptors[place] = track_id, np.frombuffer(blob, "<f4")
    return ids, descriptors


def _by_names(connection: sqlite3.Connection, columns: str, key_of: Callable[..., str]) -> Iterator[Ids]:
    """Pairs of tracks, analysed both, that have one name."""
    named: dict[str, list[int]] = {}
    rows = connection.execute(
        f"""SELECT t.id, {columns} FROM track t JOIN shelf s ON s.id = t.id
            WHERE t.id IN (SELECT track_id FROM track_likeness) ORDER BY t.id"""
    )
    for track_id, *texts in rows:
        key = key_of(*texts)
        if key:
            named.setdefault(key, []).append(track_id)
    for ids in named.values():
        if len(ids) <= MOST_NAMESAKES:
            yield from combinations(ids, 2)


def compare_pairs(
    connection: sqlite3.Connection,
    some: Sequence[Candidate],
    attacks_of: AttacksOf = lambda track_id: None,
) -> Iterator[Pair]:
    """Pairs with how their sound compares; those that only sound alike and are not one are left out."""

    @lru_cache(HELD)
    def fingerprint(track_id: int) -> Fingerprint:
        query = "SELECT fingerprint FROM track_likeness WHERE track_id = ?"
        return np.frombuffer(connection.execute(query, (track_id,)).fetchone()[0], "<u4")

    attacks = lru_cache(HELD)(attacks_of)

    @lru_cache(HELD)
    def words(track_id: int) -> Fingerprint:
        return distinct_words(fingerprint(track_id))

    for (first, second), kinds in some:
        if kinds == {"sound"} and not is_worth_a_look(words(first), words(second)):
            continue
        sounds = [Sound(fingerprint(each), attacks(each)) for each in (first, second)]
        found = relate(sounds[0], sounds[1], FRAMES_PER_S)
        if found.match.relation != "different" or kinds != {"sound"}:
            yield Pair(first, second, kinds, found.match, found.alignment)


def _copies(connection: sqlite3.Connection) -> dict[int, tuple[str, ...]]:
    rows = connection.execute(
        "SELECT track_id, path FROM track_copy WHERE track_id IN (SELECT id FROM shelf) ORDER BY path"
    )
    found: dict[int, tuple[str, ...]] = {}
    for track_id, path in rows:
        found[track_id] = (*found.get(track_id, ()), path)
    return found
