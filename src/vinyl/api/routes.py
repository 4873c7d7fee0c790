"""Routes: saving them, hearing what is left, and writing one as an audio file."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.convert import job_out, route_out
from vinyl.api.models.jobs import JobOut
from vinyl.api.models.routes import ExportIn, RouteIn, RouteOut
from vinyl.api.services import Use
from vinyl.core.cues.routes import Jump
from vinyl.jobs.listening_again import EXPORT, ROUTE
from vinyl.library import routes, tracks
from vinyl.operations import workbench
from vinyl.operations.services import Services

router = APIRouter(prefix="/api/tracks/{track_id}/routes", tags=["routes"])


@router.post("", status_code=201)
def add_route(use: Use, track_id: int, wanted: RouteIn) -> RouteOut:
    """Keep a new route."""
    return _save(use, track_id, wanted, None)


@router.put("/{route_id}")
def change_route(use: Use, track_id: int, route_id: int, wanted: RouteIn) -> RouteOut:
    """Change a route's name and jumps."""
    return _save(use, track_id, wanted, route_id)


@router.delete("/{route_id}", status_code=204)
def delete_route(use: Use, track_id: int, route_id: int) -> None:
    """Forget a route; the track stays as it is."""
    workbench.delete_route(use.database, track_id, route_id)


@router.post("/{route_id}/heard", status_code=202)
def hear_route(use: Use, track_id: int, route_id: int) -> JobOut:
    """Have key, energy and loudness heard of what a route leaves of its track; the job's result has them."""
    route = routes.get_route(use.database.read(), track_id, route_id)
    jumps = [[jump.from_s, jump.to_s] for jump in route.jumps]
    return job_out(use.listener.add(ROUTE, track_id, {"route_id": route_id, "jumps": jumps}))


@router.post("/{route_id}/audio", status_code=202)
def export_route(use: Use, track_id: int, route_id: int, wanted: ExportIn) -> JobOut:
    """Write a route as a new audio file, which the job then has; the track's own file is not touched."""
    route = routes.get_route(use.database.read(), track_id, route_id)
    payload = {"route_id": route_id, "name": route.name, "form": wanted.form}
    return job_out(use.listener.add(EXPORT, track_id, payload))


def _save(use: Services, track_id: int, wanted: RouteIn, route_id: int | None) -> RouteOut:
    row = tracks.get_track(use.database.read(), track_id)
    jumps = [Jump(jump.from_s, jump.to_s) for jump in wanted.jumps]
    return route_out(
        workbench.save_route(use.database, track_id, wanted.name, jumps, route_id), row["duration_s"]
    )
