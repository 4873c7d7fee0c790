"""What is done on the Workbench with one track: its grid, cues and routes."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Sequence

from vinyl.core.cues.cue import Cue
from vinyl.core.cues.routes import Jump
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.library import cues, grids, routes
from vinyl.library.database import Database
from vinyl.library.routes import Route
from vinyl.operations.tracks import title_of

# Makes a cue or its change from the track's grid, as it is when that is done.
MakeCue = Callable[[sqlite3.Connection], Cue]


def edit_grid(
    database: Database, track_id: int, name: str, edit: Callable[[TempoMap], TempoMap], first: TempoMap | None
) -> None:
    """Change a beatgrid; the result counts as made by hand.

    Args:
        first: the grid of a track that has none.
    """
    with database.write(f"{name.capitalize()}: {title_of(database, track_id)}") as connection:
        if first is not None and grids.get_grid(connection, track_id) is None:
            grids.set_grid(connection, track_id, first)
        else:
            grids.edit_grid(connection, track_id, edit)


def reset_grid(database: Database, track_id: int) -> None:
    """Go back to the grid found by analysis."""
    with database.write(f"Back to the analysed grid: {title_of(database, track_id)}") as connection:
        grids.drop_hand_grid(connection, track_id)


def add_cue(database: Database, track_id: int, kind: str, make: MakeCue) -> Cue:
    """Set a cue or a loop."""
    with database.write(f"Set a {kind}: {title_of(database, track_id)}") as connection:
        return _added(connection, track_id, make)


def add_cues(database: Database, track_id: int, made: Sequence[MakeCue]) -> list[Cue]:
    """Set several cues in one step, such as all that are proposed."""
    with database.write(f"Set {len(made)} cues: {title_of(database, track_id)}") as connection:
        return [_added(connection, track_id, make) for make in made]


def _added(connection: sqlite3.Connection, track_id: int, make: MakeCue) -> Cue:
    return cues.get_cue(connection, track_id, cues.add_cue(connection, track_id, make(connection)))


def move_cues(
    database: Database, track_id: int, moves: Callable[[sqlite3.Connection], list[tuple[Cue, Cue]]]
) -> list[tuple[Cue, Cue]]:
    """Move cues and loops onto the grid; returns each as it was and as it is."""
    with database.write(f"Cues onto the grid: {title_of(database, track_id)}") as connection:
        found = moves(connection)
        for _, new in found:
            cues.change_cue(connection, track_id, new)
    return found


def number_pads(database: Database, track_id: int) -> list[Cue]:
    """Put the cues that are on pads onto pads 1, 2, 3… in order of time."""
    with database.write(f"Number the pads by time: {title_of(database, track_id)}") as connection:
        cues.number_pads(connection, track_id)
        return cues.list_cues(connection, track_id)


def change_cue(database: Database, track_id: int, change: MakeCue) -> Cue:
    """Change what is given of a cue."""
    with database.write(f"Change a cue: {title_of(database, track_id)}") as connection:
        cue = change(connection)
        cues.change_cue(connection, track_id, cue)
    return cue


def delete_cue(database: Database, track_id: int, cue_id: int) -> None:
    """Delete a cue."""
    with database.write(f"Delete a cue: {title_of(database, track_id)}") as connection:
        cues.get_cue(connection, track_id, cue_id)
        cues.delete_cues(connection, track_id, [cue_id])


def save_route(
    database: Database, track_id: int, name: str, jumps: Sequence[Jump], route_id: int | None = None
) -> Route:
    """Keep a route, a new one or one that is changed."""
    with database.write(f"Save the route “{name}”: {title_of(database, track_id)}") as connection:
        saved = routes.save_route(connection, track_id, name, jumps, route_id)
        return routes.get_route(connection, track_id, saved)


def delete_route(database: Database, track_id: int, route_id: int) -> None:
    """Forget a route; the track stays as it is."""
    with database.write(f"Delete a route: {title_of(database, track_id)}") as connection:
        routes.delete_route(connection, track_id, route_id)
