"""Tracks, lists and plays of the library in the form in which they are carried to other libraries."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence

from vinyl.core.carrying.collection import Cue, Node, Play, Route, Track
from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from
from vinyl.library import crates
from vinyl.library.values import TEXT_FIELDS, get_rules, rank_sql

# Fields of a track and the columns of the flat table that have them.
COLUMNS: Mapping[str, str] = {
    **{name: name for name in TEXT_FIELDS},
    "year": "year", "stars": "rating", "energy": "energy", "key": "key", "plays": "plays", "colour": "colour",
    "marks": "marks",
}  # fmt: skip
FLAGS: Mapping[str, str] = {"explicit": "explicit", "never again": "never_again", "wanted": "wanted"}


def read_tracks(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[Track]:
    """Tracks with all that is known of them, in the order given; those that are gone are left out."""
    ids = json.dumps(list(track_ids))
    rows = {row["id"]: row for row in connection.execute(_ROWS, (ids,))}
    grids, tags = _grids(connection, ids), _tags(connection, ids)
    cues, routes = _cues(connection, ids), _routes(connection, ids)
    return [
        Track(
            str(track_id),
            row["path"],
            row["duration_s"],
            row["trimmed_samples"] / row["rate_hz"] if row["rate_hz"] else 0.0,
            bool(row["away"]),
            _values(row),
            grids.get(track_id),
            tuple(cues.get(track_id, ())),
            tuple(routes.get(track_id, ())),
            tuple(tags.get(track_id, ())),
            tuple(part for part in row["locks"].split(",") if part),
        )
        for track_id in track_ids
        if (row := rows.get(track_id)) is not None
    ]


_ROWS = """SELECT t.path, t.trimmed_samples, t.rate_hz, s.* FROM json_each(?) i
  JOIN track t ON t.id = i.value JOIN shelf s ON s.id = t.id"""


def _values(row: sqlite3.Row) -> dict[str, str]:
    found = {}
    for name, column in COLUMNS.items():
        value = row[column]
        if value is not None and str(value) != "" and not (str(value) == "0" and name in ("stars", "plays")):
            found[name] = str(value)
    return found | {name: "yes" for name, column in FLAGS.items() if row[column]}


def _grids(connection: sqlite3.Connection, ids: str) -> dict[int, TempoMap]:
    rows = connection.execute(
        f"""SELECT track_id, value, min({rank_sql(get_rules(connection)["grid"])}) FROM track_value
            WHERE field = 'grid' AND (value IS NOT NULL OR source = 'locked')
              AND track_id IN (SELECT value FROM json_each(?)) GROUP BY track_id""",
        (ids,),
    )
    found = {}
    for row in rows:
        if row["value"]:
            kept = json.loads(row["value"])
            found[int(row["track_id"])] = TempoMap(anchors_from(kept["anchors"]), kept["beats_per_bar"])
    return found


def _cues(connection: sqlite3.Connection, ids: str) -> dict[int, list[Cue]]:
    found: dict[int, list[Cue]] = {}
    rows = connection.execute(
        "SELECT * FROM cue WHERE track_id IN (SELECT value FROM json_each(?)) ORDER BY position_s, id", (ids,)
    )
    for row in rows:
        cue = Cue(
            row["position_s"], row["length_s"], row["label"], row["role"], row["colour"], row["pad"],
            bool(row["engages"]),
        )  # fmt: skip
        found.setdefault(row["track_id"], []).append(cue)
    return found


def _routes(connection: sqlite3.Connection, ids: str) -> dict[int, list[Route]]:
    found: dict[int, list[Route]] = {}
    rows = connection.execute(
        "SELECT * FROM route WHERE track_id IN (SELECT value FROM json_each(?)) ORDER BY id", (ids,)
    )
    for row in rows:
        jumps = tuple((float(leaves), float(comes)) for leaves, comes in json.loads(row["jumps"]))
        found.setdefault(row["track_id"], []).append(Route(row["name"], jumps))
    return found


def _tags(connection: sqlite3.Connection, ids: str) -> dict[int, list[str]]:
    found: dict[int, list[str]] = {}
    rows = connection.execute(
        """SELECT x.track_id, f.name || ': ' || g.name FROM track_tag x JOIN tag g ON g.id = x.tag_id
           JOIN tag_family f ON f.id = g.family_id WHERE x.track_id IN (SELECT value FROM json_each(?))
           ORDER BY f.position, g.position""",
        (ids,),
    )
    for row in rows:
        found.setdefault(row[0], []).append(row[1])
    return found


def read_nodes(connection: sqlite3.Connection, chosen: Iterable[int] | None = None) -> tuple[Node, ...]:
    """Lists and folders in their order; with ``chosen``, those lists and the folders that they stand in."""
    wanted = None if chosen is None else set(chosen)
    inside: dict[int | None, list[crates.Crate]] = {}
    for crate in crates.list_crates(connection):
        inside.setdefault(crate.folder_id, []).append(crate)
    dividers = dict(connection.execute("SELECT crate_id, count(*) FROM divider GROUP BY crate_id").fetchall())

    def within(folder_id: int | None) -> tuple[Node, ...]:
        found = []
        for crate in inside.get(folder_id, ()):
            if crate.is_folder:
                inner = within(crate.id)
                if inner or wanted is None:
                    found.append(Node(crate.name, "folder", inner=inner))
            elif wanted is None or crate.id in wanted:
                found.append(_list(connection, crate, dividers.get(crate.id, 0)))
        return tuple(found)

    return within(None)


def _list(connection: sqlite3.Connection, crate: crates.Crate, dividers: int) -> Node:
    tracks = tuple(str(track_id) for track_id in crates.crate_tracks(connection, crate.id))
    rule = connection.execute("SELECT rule FROM crate WHERE id = ?", (crate.id,)).fetchone()[0]
    kept = json.loads(rule) if rule else None
    return Node(crate.name, "rule list" if rule else "list", tracks, (), kept, dividers, crate.wanted)


def read_plays(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[Play]:
    """When tracks were played, the oldest first; practice is left out."""
    rows = connection.execute(
        """SELECT p.track_id, p.played_at, coalesce(v.name, g.name, '') AS night FROM play p
           LEFT JOIN gig g ON g.id = p.gig_id LEFT JOIN venue v ON v.id = g.venue_id
           WHERE p.track_id IN (SELECT value FROM json_each(?)) AND coalesce(g.practice, 0) = 0
           ORDER BY p.played_at, p.id""",
        (json.dumps(list(track_ids)),),
    )
    return [Play(str(row["track_id"]), row["played_at"], row["night"]) for row in rows]
