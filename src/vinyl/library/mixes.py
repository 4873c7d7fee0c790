"""One track mixed into another: what is known of both for it, and what was said of two that were heard."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import replace

from vinyl.core.planning.mixing import Side
from vinyl.library import analyses, cues, grids
from vinyl.library.clock import now
from vinyl.library.errors import LibraryError
from vinyl.library.tracks import get_track

DROP = "main"


def read_side(connection: sqlite3.Connection, track_id: int) -> Side:
    """A track as it is mixed.

    Raises:
        NotFoundError: if it is gone.
        LibraryError: if it has no beatgrid.
    """
    row = get_track(connection, track_id)
    grid = grids.get_grid(connection, track_id)
    if grid is None:
        raise LibraryError(
            f"“{row['title'] or 'A track'}” has no beatgrid yet, so beats cannot be laid on beats: "
            "have it analysed, or type its tempo at the Workbench."
        )
    side = Side(
        grid.tempo_map, row["duration_s"], lufs=row["lufs"], true_peak_db=_peak_db(connection, track_id)
    )
    return _with_points(connection, track_id, side)


def _peak_db(connection: sqlite3.Connection, track_id: int) -> float | None:
    query = "SELECT true_peak_db FROM track_analysis WHERE track_id = ?"
    row = connection.execute(query, (track_id,)).fetchone()
    return None if row is None else row[0]


def _with_points(connection: sqlite3.Connection, track_id: int, side: Side) -> Side:
    """The side with where it comes in, where its main parts begin and where it is left: by cues, or as
    analysis proposes.
    """
    structure = analyses.structure_of(connection, track_id)
    points: dict[str, float] = {cue.role: cue.time_s for cue in reversed(structure.proposals) if cue.role}
    points |= {cue.role: cue.position_s for cue in reversed(cues.list_cues(connection, track_id)) if cue.role}
    drops = {section.start_s for section in structure.sections if section.label.startswith(DROP)}
    drops |= {points["main"]} if "main" in points else set()
    return replace(
        side,
        in_s=points.get("in"),
        main_s=points.get("main"),
        out_s=points.get("out"),
        drops_s=tuple(sorted(drops)),
    )


def say(connection: sqlite3.Connection, out_track_id: int, in_track_id: int, works: bool | None) -> None:
    """Remember whether one track goes over into another; None forgets it."""
    connection.execute(
        "DELETE FROM mix_verdict WHERE out_track_id = ? AND in_track_id = ?", (out_track_id, in_track_id)
    )
    if works is not None:
        connection.execute(
            "INSERT INTO mix_verdict (out_track_id, in_track_id, works, said_at) VALUES (?, ?, ?, ?)",
            (out_track_id, in_track_id, works, now()),
        )


def verdicts(connection: sqlite3.Connection, out_track_ids: Sequence[int]) -> dict[tuple[int, int], bool]:
    """What was said of these tracks mixed into others."""
    rows = connection.execute(
        """SELECT out_track_id, in_track_id, works FROM mix_verdict
           WHERE out_track_id IN (SELECT value FROM json_each(?))""",
        (json.dumps(list(out_track_ids)),),
    )
    return {(row[0], row[1]): bool(row[2]) for row in rows}


def take_over(connection: sqlite3.Connection, kept_id: int, copy_ids: Sequence[int]) -> None:
    """What was said of copies is said of the kept track, where nothing was said of that."""
    copies = set(copy_ids)
    rows = connection.execute(
        """SELECT * FROM mix_verdict WHERE out_track_id IN (SELECT value FROM json_each(?1))
           OR in_track_id IN (SELECT value FROM json_each(?1)) ORDER BY said_at DESC""",
        (json.dumps(sorted(copies)),),
    ).fetchall()
    for row in rows:
        out_id, in_id = (kept_id if each in copies else each for each in (row[0], row[1]))
        say(connection, row["out_track_id"], row["in_track_id"], None)
        if out_id != in_id:
            connection.execute(
                """INSERT OR IGNORE INTO mix_verdict (out_track_id, in_track_id, works, said_at)
                   VALUES (?, ?, ?, ?)""",
                (out_id, in_id, row["works"], row["said_at"]),
            )
