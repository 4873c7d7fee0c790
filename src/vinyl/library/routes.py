"""Routes of a track: named lists of jumps."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from vinyl.core.cues.routes import Jump, stretches
from vinyl.library import flat
from vinyl.library.errors import LibraryError, NotFoundError


@dataclass(frozen=True, slots=True)
class Route:
    """A way through a track."""

    id: int
    track_id: int
    name: str
    jumps: tuple[Jump, ...]


def list_routes(connection: sqlite3.Connection, track_id: int) -> list[Route]:
    """A track's routes, oldest first."""
    return [
        _from_row(row)
        for row in connection.execute("SELECT * FROM route WHERE track_id = ? ORDER BY id", (track_id,))
    ]


def get_route(connection: sqlite3.Connection, track_id: int, route_id: int) -> Route:
    """One route of a track.

    Raises:
        NotFoundError: if the track has no such route.
    """
    row = connection.execute(
        "SELECT * FROM route WHERE id = ? AND track_id = ?", (route_id, track_id)
    ).fetchone()
    if row is None:
        raise NotFoundError("This route is no longer there.")
    return _from_row(row)


def save_route(
    connection: sqlite3.Connection,
    track_id: int,
    name: str,
    jumps: Sequence[Jump],
    route_id: int | None = None,
) -> int:
    """Keep a new route, or change one; returns its id.

    Raises:
        RouteError: if it cannot be gone.
        LibraryError: without a name or a jump.
    """
    row = connection.execute("SELECT duration_s FROM track WHERE id = ?", (track_id,)).fetchone()
    if row is None:
        raise NotFoundError(f"Track {track_id} is not in the library (any more).")
    if not name.strip():
        raise LibraryError("A route needs a name.")
    if not jumps:
        raise LibraryError("A route needs at least one jump: without one it is the whole track.")
    stretches(jumps, row["duration_s"])
    text = json.dumps([[jump.from_s, jump.to_s] for jump in jumps])
    if route_id is not None:
        get_route(connection, track_id, route_id)
        connection.execute(
            "UPDATE route SET name = ?, jumps = ? WHERE id = ?", (name.strip(), text, route_id)
        )
        return route_id
    cursor = connection.execute(
        "INSERT INTO route (track_id, name, jumps) VALUES (?, ?, ?)", (track_id, name.strip(), text)
    )
    flat.settle(connection, [track_id], ["route"])
    return int(cursor.lastrowid or 0)


def delete_route(connection: sqlite3.Connection, track_id: int, route_id: int) -> None:
    """Forget a route."""
    get_route(connection, track_id, route_id)
    connection.execute("DELETE FROM route WHERE id = ?", (route_id,))
    flat.settle(connection, [track_id], ["route"])


def _from_row(row: sqlite3.Row) -> Route:
    return Route(
        row["id"], row["track_id"], row["name"], tuple(Jump(*pair) for pair in json.loads(row["jumps"]))
    )
