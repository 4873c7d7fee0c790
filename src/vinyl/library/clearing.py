"""Deleting cues of many tracks at once, by what they are."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from vinyl.library import flat

CueKind = Literal["all", "others", "roles", "pads", "loops"]

KINDS: Mapping[CueKind, str] = {
    "all": "all cues and loops",
    "others": "all but in, main and out",
    "roles": "in, main and out",
    "pads": "those on pads",
    "loops": "loops",
}
_IS: Mapping[CueKind, str] = {
    "all": "true",
    "others": "role IS NULL",
    "roles": "role IS NOT NULL",
    "pads": "pad IS NOT NULL",
    "loops": "length_s IS NOT NULL",
}
_OPEN = (
    "track_id IN (SELECT value FROM json_each(?)) AND NOT EXISTS "
    "(SELECT 1 FROM track_lock l WHERE l.track_id = cue.track_id AND l.part = 'cues')"
)


@dataclass(frozen=True, slots=True)
class Deleted:
    """How many cues went, of how many tracks, and how many tracks kept theirs because they are locked."""

    cues: int
    tracks: int
    locked: int


def count_cues(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[CueKind, int]:
    """How many cues of each kind tracks have; locked ones do not count."""
    counts = ", ".join(f"total({is_kind})" for is_kind in _IS.values())
    row = connection.execute(
        f"SELECT {counts} FROM cue WHERE {_OPEN}", (json.dumps(list(track_ids)),)
    ).fetchone()
    return {kind: int(count) for kind, count in zip(_IS, row, strict=True)}


def delete_cues(connection: sqlite3.Connection, track_ids: Sequence[int], kind: CueKind) -> Deleted:
    """Delete all cues of a kind of those tracks whose cues are not locked."""
    ids = json.dumps(list(track_ids))
    gone = [
        row[0]
        for row in connection.execute(
            f"DELETE FROM cue WHERE {_OPEN} AND {_IS[kind]} RETURNING track_id", (ids,)
        ).fetchall()
    ]
    touched = sorted(set(gone))
    flat.settle(connection, touched, ["cue"])
    return Deleted(len(gone), len(touched), _locked(connection, ids, kind))


def _locked(connection: sqlite3.Connection, ids: str, kind: CueKind) -> int:
    """How many tracks have cues of a kind that are locked."""
    row = connection.execute(
        f"SELECT count(DISTINCT track_id) FROM cue WHERE {_IS[kind]} "
        "AND track_id IN (SELECT value FROM json_each(?)) "
        "AND track_id IN (SELECT track_id FROM track_lock WHERE part = 'cues')",
        (ids,),
    ).fetchone()
    return int(row[0])
