"""Beatgrids: the one found by analysis, the one made by hand, and which of them holds."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass

from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from, anchors_to
from vinyl.library import flat, values
from vinyl.library.errors import LibraryError
from vinyl.library.locks import check_open
from vinyl.library.values import Value

GRID_FIELDS = ("grid", "tempo")


@dataclass(frozen=True, slots=True)
class Grid:
    """The grid that holds for a track, and whether it was made by hand."""

    tempo_map: TempoMap
    by_hand: bool


def get_grid(connection: sqlite3.Connection, track_id: int) -> Grid | None:
    """The grid that holds, or None."""
    found = values.winner(connection, track_id, "grid")
    return Grid(_from_text(found.value.text), found.origin == "by hand") if found else None


def analysed_grid(connection: sqlite3.Connection, track_id: int) -> Grid | None:
    """The grid that analysis found, whether or not it holds."""
    for found in values.sources_of(connection, track_id, ["grid"]):
        if found.source == "analysis" and found.value.text is not None:
            return Grid(_from_text(found.value.text), False)
    return None


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
    values.put(
        connection,
        [track_id],
        "by hand",
        {"grid": grid_value(tempo_map, 0.0), "tempo": Value(repr(tempo_map.bpm), None, 0.0)},
    )
    flat.settle(connection, [track_id], GRID_FIELDS)


def drop_hand_grid(connection: sqlite3.Connection, track_id: int) -> None:
    """Go back to the grid found by analysis.

    Raises:
        LockedError: if the grid is locked.
    """
    check_open(connection, track_id, "grid")
    values.put(connection, [track_id], "by hand", {"grid": None, "tempo": None})
    flat.settle(connection, [track_id], GRID_FIELDS)


def grid_value(
    tempo_map: TempoMap | None, doubt: float, reasons: tuple[str, ...] = (), other_bpm: float | None = None
) -> Value:
    """A grid as a value; None for a track in which no beat was found."""
    text = None
    if tempo_map is not None:
        text = json.dumps({"anchors": anchors_to(tempo_map), "beats_per_bar": tempo_map.beats_per_bar})
    told = {"reasons": list(reasons), "other_bpm": other_bpm}
    return Value(text, {name: each for name, each in told.items() if each} or None, doubt)


def _from_text(text: str | None) -> TempoMap:
    stored = json.loads(text or "{}")
    return TempoMap(anchors_from(stored["anchors"]), stored["beats_per_bar"])
