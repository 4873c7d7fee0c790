"""Routes: saving them, hearing what is left, and writing one as an audio file."""

from __future__ import annotations

import re
import tempfile
from pathlib import Path
from typing import Literal

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from vinyl.api import models
from vinyl.api.convert import route_out
from vinyl.api.services import Services, Use
from vinyl.core.analysis import analyse
from vinyl.core.cues.routes import Jump, render_route, stretches
from vinyl.library import routes, tracks
from vinyl.media.decode import ANALYSIS_RATE_HZ, Audio, decode
from vinyl.media.encode import ENCODINGS, encode

NOT_IN_NAMES = re.compile(r"[^\w .()-]+")

router = APIRouter(prefix="/api/tracks/{track_id}/routes", tags=["routes"])


@router.post("", status_code=201)
def add_route(use: Use, track_id: int, wanted: models.RouteIn) -> models.RouteOut:
    """Keep a new route."""
    return _save(use, track_id, wanted, None)


@router.put("/{route_id}")
def change_route(use: Use, track_id: int, route_id: int, wanted: models.RouteIn) -> models.RouteOut:
    """Change a route's name and jumps."""
    return _save(use, track_id, wanted, route_id)


@router.delete("/{route_id}", status_code=204)
def delete_route(use: Use, track_id: int, route_id: int) -> None:
    """Forget a route; the track stays as it is."""
    title = tracks.get_track(use.database.read(), track_id)["title"]
    with use.database.write(f"Delete a route: {title}") as connection:
        routes.delete_route(connection, track_id, route_id)
    use.changed("tracks", track_ids=[track_id])


@router.get("/{route_id}/heard")
def hear_route(use: Use, track_id: int, route_id: int) -> models.RouteHeardOut:
    """Key, energy and loudness of what a route leaves of its track, analysed as a track is."""
    heard = analyse(_sound(use, track_id, route_id).samples)
    key = str(heard.key.key) if heard.key.key else None
    return models.RouteHeardOut(
        key=key,
        key_confidence=heard.key.confidence,
        energy=heard.energy.value,
        lufs=heard.loudness.integrated_lufs,
    )


@router.get("/{route_id}/audio", response_class=FileResponse)
def export_route(
    use: Use, track_id: int, route_id: int, form: Literal["flac", "wav", "aiff", "mp3", "m4a"] = "flac"
) -> Response:
    """The route as a new audio file; the track's own file is not touched."""
    row = tracks.get_track(use.database.read(), track_id)
    route = routes.get_route(use.database.read(), track_id, route_id)
    sound = _sound(use, track_id, route_id)
    folder = tempfile.TemporaryDirectory(prefix="vinyl-route-")
    name = (
        NOT_IN_NAMES.sub("_", f"{row['artist']} - {row['title']} ({route.name})").strip()
        + ENCODINGS[form].suffix
    )
    path = Path(folder.name) / f"route{ENCODINGS[form].suffix}"
    encode(sound.samples, sound.rate_hz, path, form)
    return FileResponse(
        path, filename=name, media_type="application/octet-stream", background=BackgroundTask(folder.cleanup)
    )


def _save(use: Services, track_id: int, wanted: models.RouteIn, route_id: int | None) -> models.RouteOut:
    row = tracks.get_track(use.database.read(), track_id)
    jumps = [Jump(jump.from_s, jump.to_s) for jump in wanted.jumps]
    with use.database.write(f"Save the route “{wanted.name}”: {row['title']}") as connection:
        saved = routes.save_route(connection, track_id, wanted.name, jumps, route_id)
        route = routes.get_route(connection, track_id, saved)
    use.changed("tracks", track_ids=[track_id])
    return route_out(route, row["duration_s"])


def _sound(use: Services, track_id: int, route_id: int) -> Audio:
    connection = use.database.read()
    row = tracks.get_track(connection, track_id)
    route = routes.get_route(connection, track_id, route_id)
    samples = decode(use.roots.check(Path(row["path"])), ANALYSIS_RATE_HZ).samples
    played = stretches(route.jumps, min(row["duration_s"], samples.shape[1] / ANALYSIS_RATE_HZ))
    return Audio(render_route(samples, ANALYSIS_RATE_HZ, played), ANALYSIS_RATE_HZ)
