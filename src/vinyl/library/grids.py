"""Beatgrids: the one found by analysis, the one made by hand, and which of them holds."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass

from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from, anchors_to
from vinyl.library.errors import LibraryError
from vinyl.library.locks import check_open


@dataclass(frozen=True, slots=True)
class Grid:
    """The grid that holds for a track, and whether it was made by hand."""

    tempo_map: TempoMap
    by_hand: bool


def get_grid(connection: sqlite3.Connection, track_id: int) -> Grid | None:
    """The hand-made grid, or else the analysed one, or None."""
    return _stored(connection, "hand_grid", track_id, True) or analysed_grid(connection, track_id)


def analysed_grid(connection: sqlite3.Connection, track_id: int) -> Grid | None:
    """The grid that analysis found, whether or not it holds."""
    return _stored(connection, "track_analysis", track_id, False)


def _stored(connection: sqlite3.Connection, table: str, track_id: int, by_hand: bool) -> Grid | None:
    query = f"SELECT anchors, beats_per_bar FROM {table} WHERE track_id = ? AND anchors IS NOT NULL"
    row = connection.execute(query, (track_id,)).fetchone()
    return (
        Grid(TempoMap(anchors_from(json.loads(row["anchors"])), row["beats_per_bar"]), by_hand)
        if row
        else None
    )


def edit_grid(
    connection: sqlite3.Connection, track_id: int, edit: Callable[[TempoMap], TempoMap]
) -> TempoMap:
    """Apply an edit to the grid that holds and keep the result as made by hand.

    Raises:
        LibraryError: if the track has no grid yet.
        TempoMapError: if the edit breaks an invariant.
    """
    grid = get_grid(connection, track_id)
    if grid is None:
        raise LibraryError("This track has no beatgrid yet: type its tempo, or wait until it is analysed.")
    changed = edit(grid.tempo_map)
    set_grid(connection, track_id, changed)
    return changed


def set_grid(connection: sqlite3.Connection, track_id: int, tempo_map: TempoMap) -> None:
    """Keep a grid as made by hand.

    Raises:
        LockedError: if the grid is locked.
    """
    check_open(connection, track_id, "grid")
    connection.execute(
        """INSERT INTO hand_grid (track_id, bpm, anchors, beats_per_bar) VALUES (?, ?, ?, ?)
           ON CONFLICT (track_id) DO UPDATE SET bpm = excluded.bpm, anchors = excluded.anchors, beats_per_bar = excluded.beats_per_bar""",
        (track_id, tempo_map.bpm, json.dumps(anchors_to(tempo_map)), tempo_map.beats_per_bar),
    )


def drop_hand_grid(connection: sqlite3.Connection, track_id: int) -> None:
    """Go back to the grid found by analysis.

    Raises:
        LockedError: if the grid is locked.
    """
    check_open(connection, track_id, "grid")
    connection.execute("DELETE FROM hand_grid WHERE track_id = ?", (track_id,))
