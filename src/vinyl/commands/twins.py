"""``./vinyl twins``: which tracks are there more than once, and how that is known."""

from __future__ import annotations

import json
import sqlite3
import sys
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from vinyl.commands.client import open_library
from vinyl.core.twins.groups import Group, Pair
from vinyl.library.twin_pairs import attacks_from, current_pairs
from vinyl.library.twins import Twins, twins_of
from vinyl.library.waveforms import WaveformStore

Rows = Mapping[int, sqlite3.Row]


def print_twins(home: Path, as_json: bool) -> int:
    """Print the groups that are found, as lines or as JSON; nothing is changed."""
    connection = open_library(home).read()
    # One state of the library, whoever writes meanwhile.
    connection.execute("BEGIN")
    attacks_of = attacks_from(WaveformStore(home / "waveforms"))
    found = twins_of(connection, current_pairs(connection, _tell, attacks_of))
    rows = _rows(connection, found)
    connection.execute("ROLLBACK")
    told = [_group(group, rows, found.copies) for group in found.groups]
    held = {track_id for group in found.groups for track_id in group.track_ids}
    told += [_copied(rows[each], paths) for each, paths in found.copies.items() if each not in held]
    alike = [_pair(pair, rows) for pair in found.by_name]
    if as_json:
        print(json.dumps({"groups": told, "called alike": alike}, ensure_ascii=False, indent=1))
        return 0
    several = [group for group in told if len(group["files"]) > 1]
    print(
        f"{len(several):,} recordings that are there more than once, {len(alike):,} pairs only called alike"
    )
    for group in told:
        print("\n".join(_lines(group)))
    for pair in alike:
        print(f"Called alike, but another sound: {pair['files'][0]}, {pair['files'][1]}")
    return 0


def _tell(done: int, total: int) -> None:
    if sys.stderr.isatty():
        print(f"\r{done:,} of {total:,} pairs compared", end="", file=sys.stderr)


def _rows(connection: sqlite3.Connection, found: Twins) -> Rows:
    pairs = [*found.by_name, *(pair for group in found.groups for pair in group.pairs)]
    ids = {track_id for pair in pairs for track_id in (pair.first, pair.second)}
    ids |= {track_id for group in found.groups for track_id in (*group.track_ids, *group.versions)}
    rows = connection.execute(
        """SELECT s.id, s.title, s.artist, t.path FROM shelf s JOIN track t ON t.id = s.id
           WHERE s.id IN (SELECT value FROM json_each(?))""",
        (json.dumps(sorted(ids | found.copies.keys())),),
    )
    return {row["id"]: row for row in rows}


def _group(group: Group, rows: Rows, copies: Mapping[int, Sequence[str]]) -> dict[str, Any]:
    files = [path for each in group.track_ids for path in (rows[each]["path"], *copies.get(each, ()))]
    return {
        **_named(rows[group.track_ids[0]]),
        "files": files,
        "pairs": [_pair(pair, rows) for pair in group.pairs],
        "versions": [
            {"file": rows[other]["path"], "relation": relation} for other, relation in group.versions.items()
        ],
    }


def _copied(row: sqlite3.Row, paths: Sequence[str]) -> dict[str, Any]:
    return {**_named(row), "files": [row["path"], *paths], "pairs": [], "versions": []}


def _named(row: sqlite3.Row) -> dict[str, Any]:
    return {"title": row["title"], "artist": row["artist"]}


def _pair(pair: Pair, rows: Rows) -> dict[str, Any]:
    return {
        "files": [rows[pair.first]["path"], rows[pair.second]["path"]],
        "found by": sorted(pair.evidence),
        "relation": pair.relation,
        "likeness": round(pair.likeness, 3),
        "second begins later, s": round(
            pair.alignment.offset_s if pair.alignment else pair.match.offset_s, 3
        ),
        "second lasts, times": round(pair.alignment.speed, 5) if pair.alignment else None,
        "parts of the longer left out, s": [
            [round(each, 1) for each in part] for part in pair.match.missing_s
        ],
        "heard difference": None if pair.difference is None else round(pair.difference, 2),
        "sure": pair.is_sure,
    }


def _lines(group: Mapping[str, Any]) -> list[str]:
    head = f"{group['title']} – {group['artist']}"
    lines = [head, *(f"    {path}" for path in group["files"])]
    if len(group["files"]) > 1 and not group["pairs"]:
        lines.append("    the very same sound")
    lines += [
        f"    {each['likeness']:.2f} alike, found by {', '.join(each['found by'])}" for each in group["pairs"]
    ]
    lines += [f"    beside it, {each['relation']}: {each['file']}" for each in group["versions"]]
    return lines
