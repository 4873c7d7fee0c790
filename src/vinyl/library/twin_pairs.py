"""Pairs that were found, what the user has said of them, and the groups that come of both."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import combinations
from pathlib import Path
from typing import Literal

from vinyl.core.errors import VinylError
from vinyl.core.likeness.compare import Match
from vinyl.core.quality.findings import LOSSLESS
from vinyl.core.twins.alignment import Alignment
from vinyl.core.twins.groups import LARGEST_DIFFERENCE, Pair, make_groups
from vinyl.core.twins.relating import Attacks, Sound, relate
from vinyl.library.clock import now
from vinyl.library.likeness import FRAMES_PER_S, fingerprint_of
from vinyl.library.twins import AttacksOf, find_pairs
from vinyl.library.waveforms import WaveformStore

# What a group is: twins that need not be listened to, twins that should be; and what only stands beside.
Kind = Literal["sure", "same", "edit", "same backing", "name"]
KINDS: tuple[Kind, ...] = ("sure", "same", "name", "edit", "same backing")


@dataclass(frozen=True, slots=True)
class Unheard:
    """Two files to be listened to: the first's times lie ``offset_s`` later in the second; the fewest bits a
    second that a lossy one of them has.
    """

    first: int
    second: int
    offset_s: float
    first_path: Path
    second_path: Path
    least_bits_per_s: float


@dataclass(frozen=True, slots=True)
class TwinGroup:
    """Tracks that are one recording, or are called alike, or are versions of one work, with the pairs that
    say so; ``copies`` are files with the very sound of one of them. It is named by its first track.
    """

    kind: Kind
    track_ids: tuple[int, ...]
    pairs: tuple[Pair, ...]
    copies: tuple[tuple[int, str, int], ...] = ()
    later: bool = False

    @property
    def id(self) -> int:
        return self.track_ids[0]


def attacks_from(waveforms: WaveformStore) -> AttacksOf:
    """Reads the attacks of tracks, None where they are not at hand."""

    def attacks_of(track_id: int) -> Attacks | None:
        try:
            return waveforms.onsets(track_id).onset_times.times_s
        except (VinylError, OSError, EOFError, ValueError, zlib.error):  # it comes with a new analysis
            return None

    return attacks_of


def unseen(connection: sqlite3.Connection) -> list[int]:
    """Tracks on the Shelf that were analysed, and not looked at for twins since."""
    rows = connection.execute(
        """SELECT l.track_id FROM track_likeness l JOIN shelf s ON s.id = l.track_id
           WHERE l.track_id NOT IN (SELECT track_id FROM twin_seen) ORDER BY 1"""
    )
    return [row[0] for row in rows]


def keep(connection: sqlite3.Connection, pairs: Iterable[Pair], seen: Sequence[int]) -> None:
    """Keep what was found of some tracks, in place of what was found of them before."""
    ids = json.dumps(list(seen))
    for side in ("first", "second"):
        connection.execute(f"DELETE FROM twin_pair WHERE {side} IN (SELECT value FROM json_each(?))", (ids,))
    connection.executemany(
        "INSERT OR REPLACE INTO twin_pair VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        [_row(pair) for pair in pairs],
    )
    connection.execute(
        "INSERT OR IGNORE INTO twin_seen SELECT l.track_id FROM track_likeness l "
        "WHERE l.track_id IN (SELECT value FROM json_each(?))",
        (ids,),
    )


def _row(pair: Pair) -> tuple[object, ...]:
    match, line = pair.match, pair.alignment
    aligned = (None, None, None) if line is None else (line.speed, line.offset_s, line.spread_s)
    told = (match.relation, match.offset_s, match.covered, match.bit_error, match.unevenness)
    heard = (json.dumps(match.missing_s), pair.difference, pair.unheard)
    return (pair.first, pair.second, json.dumps(sorted(pair.evidence)), *told, *aligned, *heard)


def _pair(row: sqlite3.Row) -> Pair:
    told = (row["relation"], row["offset_s"], row["covered"], row["bit_error"], row["unevenness"])
    match = Match(*told, tuple((start, end) for start, end in json.loads(row["missing"])))
    aligned = (row["speed"], row["aligned_s"], row["spread_s"])
    line = None if row["speed"] is None else Alignment(*aligned)
    evidence = frozenset(json.loads(row["evidence"]))
    return Pair(row["first"], row["second"], evidence, match, line, row["difference"], row["unheard"])


def current_pairs(
    connection: sqlite3.Connection, told: Callable[[int, int], None], attacks_of: AttacksOf
) -> list[Pair]:
    """All pairs as they were found, and those of tracks that were not looked at yet, which are compared now;
    arguments as for ``find_pairs``.
    """
    new = unseen(connection)
    among = frozenset(new)
    old = [pair for pair in list_pairs(connection) if among.isdisjoint((pair.first, pair.second))]
    return [*old, *(find_pairs(connection, told, attacks_of, new) if new else ())]


def list_unheard(connection: sqlite3.Connection, at_most: int = -1) -> list[Unheard]:
    """Pairs that seem to be one recording, run alike, and were not listened to, with their files there."""
    rows = connection.execute(
        """SELECT p.first, p.second, p.aligned_s, f.path, g.path, min(
             iif(f.codec IN lossless, 1e9, coalesce(f.bit_rate, 1e9)),
             iif(g.codec IN lossless, 1e9, coalesce(g.bit_rate, 1e9)))
           FROM twin_pair p JOIN shelf a ON a.id = p.first JOIN shelf b ON b.id = p.second
           JOIN track f ON f.id = p.first JOIN track g ON g.id = p.second
           WHERE p.relation = 'same' AND p.speed = 1.0 AND p.difference IS NULL AND p.unheard = ''
             AND NOT a.away AND NOT b.away
             AND NOT EXISTS (SELECT 1 FROM twin_not n WHERE n.first = p.first AND n.second = p.second)
           ORDER BY p.first, p.second LIMIT ?2""".replace(
            "IN lossless", "IN (SELECT value FROM json_each(?1))"
        ),
        (json.dumps(sorted(LOSSLESS)), at_most),
    )
    return [
        Unheard(first, second, offset_s, Path(here), Path(there), bits)
        for first, second, offset_s, here, there, bits in rows
    ]


def keep_heard(connection: sqlite3.Connection, first: int, second: int, heard: float | str) -> None:
    """Keep how far two files differ, or why that is not known: what differs is another version."""
    if isinstance(heard, str):
        changes: tuple[object, ...] = (None, heard or "unknown", "same")
    else:
        changes = (heard, "", "same" if heard <= LARGEST_DIFFERENCE else "same backing")
    connection.execute(
        """UPDATE twin_pair SET difference = ?, unheard = ?, relation = ?
           WHERE first = ? AND second = ? AND relation = 'same'""",
        (*changes, first, second),
    )


def list_pairs(connection: sqlite3.Connection) -> list[Pair]:
    """All pairs of tracks on the Shelf but those of which the user said that they are none."""
    rows = connection.execute(
        """SELECT p.* FROM twin_pair p JOIN shelf a ON a.id = p.first JOIN shelf b ON b.id = p.second
           WHERE NOT EXISTS (SELECT 1 FROM twin_not n WHERE n.first = p.first AND n.second = p.second)"""
    )
    return [_pair(row) for row in rows]


def list_groups(connection: sqlite3.Connection) -> list[TwinGroup]:
    """All groups: the sure ones first, then what is to be listened to, then versions that are not linked."""
    pairs, copies = list_pairs(connection), _copies(connection)
    works = dict(connection.execute("SELECT track_id, work_id FROM track_version").fetchall())
    found = make_groups(pairs)
    several = [group for group in found if len(group.track_ids) > 1]
    held = {each for group in several for each in group.track_ids}
    groups = [_twins(group.track_ids, group.pairs, copies) for group in several]
    groups += [
        TwinGroup("sure", (track_id,), (), tuple(its))
        for track_id, its in copies.items()
        if track_id not in held
    ]
    leader = {each: group.track_ids[0] for group in several for each in group.track_ids}
    led = [_led(pair, leader) for pair in pairs if pair.relation != "same"]
    open_pairs = [pair for pair in led if pair is not None and not _is_linked(pair, works)]
    groups += _alike("name", [pair for pair in open_pairs if pair.relation == "different"])
    groups += _alike("edit", [pair for pair in open_pairs if pair.relation != "different"])
    later = {row[0] for row in connection.execute("SELECT track_id FROM twin_later")}
    groups = [_marked(group) if not later.isdisjoint(group.track_ids) else group for group in groups]
    return sorted(groups, key=lambda group: (group.later, KINDS.index(group.kind), group.track_ids))


def _marked(group: TwinGroup) -> TwinGroup:
    return TwinGroup(group.kind, group.track_ids, group.pairs, group.copies, True)


def _twins(
    track_ids: tuple[int, ...], pairs: tuple[Pair, ...], copies: dict[int, list[tuple[int, str, int]]]
) -> TwinGroup:
    """Twins are sure if each two that were compared are; in large groups each has its nearest only."""
    sure = all(pair.is_sure for pair in pairs)
    its = tuple(copy for track_id in track_ids for copy in copies.get(track_id, ()))
    return TwinGroup("sure" if sure else "same", track_ids, pairs, its)


def _led(pair: Pair, leader: dict[int, int]) -> Pair | None:
    """A pair of the first of both groups of twins; None within one."""
    first, second = sorted(leader.get(each, each) for each in (pair.first, pair.second))
    return None if first == second else replace(pair, first=first, second=second)


def _alike(kind: Kind, pairs: Sequence[Pair]) -> list[TwinGroup]:
    """What hangs together by pairs that are no twins."""
    groups = make_groups([_as_same(pair) for pair in pairs])
    own = {(pair.first, pair.second): pair for pair in pairs}
    return [
        TwinGroup(_kind(kind, its), group.track_ids, its)
        for group in groups
        for its in [tuple(own[pair.first, pair.second] for pair in group.pairs)]
    ]


def _kind(kind: Kind, pairs: Sequence[Pair]) -> Kind:
    return "same backing" if kind == "edit" and all(p.relation == "same backing" for p in pairs) else kind


def _is_linked(pair: Pair, works: dict[int, int]) -> bool:
    return pair.first in works and works.get(pair.first) == works.get(pair.second)


def _as_same(pair: Pair) -> Pair:
    """A pair as one that hangs together, whatever it is."""
    match = Match("same", 0.0, pair.match.covered, pair.match.bit_error)
    return Pair(pair.first, pair.second, pair.evidence, match)


def _copies(connection: sqlite3.Connection) -> dict[int, list[tuple[int, str, int]]]:
    """Files that were noted as copies and are not put aside, by their track: its id, path and size."""
    rows = connection.execute(
        """SELECT c.track_id, c.path, c.size_bytes FROM track_copy c JOIN shelf s ON s.id = c.track_id
           WHERE NOT EXISTS (SELECT 1 FROM copy_off o WHERE o.track_id = c.track_id AND o.path = c.path)
           ORDER BY c.track_id, c.path"""
    )
    found: dict[int, list[tuple[int, str, int]]] = {}
    for track_id, path, size_bytes in rows:
        found.setdefault(track_id, []).append((track_id, path, size_bytes))
    return found


def pair_of(connection: sqlite3.Connection, attacks_of: AttacksOf, first: int, second: int) -> Pair | None:
    """How two tracks compare: as it was found, or, of two that were not compared, as they do now; None where
    one was not analysed.
    """
    low, high = sorted((first, second))
    row = connection.execute("SELECT * FROM twin_pair WHERE first = ? AND second = ?", (low, high)).fetchone()
    if row is not None:
        return _pair(row)
    try:
        sounds = [Sound(fingerprint_of(connection, each), attacks_of(each)) for each in (low, high)]
    except VinylError:
        return None
    found = relate(sounds[0], sounds[1], FRAMES_PER_S)
    return Pair(low, high, frozenset({"sound"}), found.match, found.alignment)


def is_said_none(connection: sqlite3.Connection, pair: Pair) -> bool:
    """Whether the user said of two tracks that they are no twins."""
    query = "SELECT 1 FROM twin_not WHERE first = ? AND second = ?"
    return connection.execute(query, (pair.first, pair.second)).fetchone() is not None


def say_no_twins(connection: sqlite3.Connection, track_ids: Sequence[int]) -> None:
    """Remember of tracks that no two of them are twins, nor versions that would have to be linked."""
    connection.executemany(
        "INSERT OR IGNORE INTO twin_not (first, second, said_at) VALUES (?, ?, ?)",
        [(first, second, now()) for first, second in combinations(sorted(set(track_ids)), 2)],
    )


def mark_later(connection: sqlite3.Connection, track_ids: Sequence[int], later: bool) -> None:
    """Mark a group to be looked at once more, or not."""
    ids = json.dumps(list(track_ids))
    connection.execute("DELETE FROM twin_later WHERE track_id IN (SELECT value FROM json_each(?))", (ids,))
    if later and track_ids:
        connection.execute(
            "INSERT INTO twin_later (track_id, said_at) VALUES (?, ?)", (min(track_ids), now())
        )
