"""The tracks of the library that go with one."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from vinyl.core.planning.fitting import (
    USUAL,
    Facts,
    Fit,
    Reach,
    Weights,
    best_fits,
    key_relations,
    tempo_ranges,
)
from vinyl.core.tonal.key import parse_key
from vinyl.library.likeness import likeness_to
from vinyl.library.tracks import get_track

# So many by key and tempo are looked at, those nearest in energy first.
LOOKED_AT = 3000
# A version of the very work is nothing to go on with.
OTHER_WORK = (
    "id NOT IN (SELECT track_id FROM track_version "
    "WHERE work_id = (SELECT work_id FROM track_version WHERE track_id = ?))"
)


@dataclass(frozen=True, slots=True)
class Fitting:
    """A track that goes with another."""

    track_id: int
    fit: Fit
    likeness: float | None = None


def find_fitting(
    connection: sqlite3.Connection,
    track_id: int,
    reach: Reach = "near",
    key_held: bool = True,
    most: int = 60,
    weights: Weights = USUAL,
) -> list[Fitting]:
    """The tracks that go best with one, the best first; never what is not to be played again, nor a version
    of the same work.

    Raises:
        NotFoundError: if the track is not in the library.
    """
    chosen = get_track(connection, track_id)
    wanted = Facts(chosen["bpm"], chosen["key"], chosen["energy"])
    where, values = _in_reach(wanted, reach, key_held)
    rows = connection.execute(
        "SELECT id, bpm, key, energy FROM shelf INDEXED BY shelf_narrow "
        f"WHERE NOT never_again AND id <> ? AND {OTHER_WORK} {where} "
        "ORDER BY abs(coalesce(energy, 50) - ?) LIMIT ?",
        (track_id, track_id, *values, chosen["energy"] or 50, LOOKED_AT),
    ).fetchall()
    likeness = likeness_to(connection, track_id, [row["id"] for row in rows])
    others = [
        (row["id"], Facts(row["bpm"], row["key"], row["energy"], likeness.get(row["id"]))) for row in rows
    ]
    best = best_fits(wanted, others, most, reach, key_held, weights)
    return [Fitting(number, found, likeness.get(number)) for number, found in best]


def _in_reach(wanted: Facts, reach: Reach, key_held: bool) -> tuple[str, list[float | str]]:
    """Of which tempi and keys tracks can be, as SQL with its values: one pass through the narrow index, where
    indexes of single columns would look up most rows one by one.
    """
    where, values = "", list[float | str]()
    if wanted.bpm:
        ranges = tempo_ranges(wanted.bpm, reach)
        where += f"AND ({' OR '.join(['bpm BETWEEN ? AND ?'] * len(ranges))}) "
        values += [each for low_high in ranges for each in low_high]
    if wanted.key and key_held:
        keys = [str(key) for key in key_relations(parse_key(wanted.key), reach)]
        where += f"AND key IN ({', '.join('?' * len(keys))})"
        values += keys
    return where, values
