"""The Shelf: finding, sorting, rating; and the parts of one track."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response

from vinyl.api import models
from vinyl.api.convert import cue_marks, cue_out, grid_out, heard_out, proposals_out, route_out, track_out
from vinyl.api.services import Use
from vinyl.core.cues.proposals import still_open
from vinyl.core.likeness.index import Question
from vinyl.library import choices, crates, cues, grids, imports, locks, routes, templates, tracks
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.likeness import compare_tracks
from vinyl.library.tracks import Filter, SortName
from vinyl.media.listening import RATE_HZ
from vinyl.media.pictures import small_jpeg
from vinyl.media.tags import read_tags

MOST_ROWS = 500
MOST_FRAMES = 60 * RATE_HZ
PICTURE_PIXELS = 400
MOST_ALIKE = 5

router = APIRouter(prefix="/api/tracks", tags=["tracks"])


def wanted_tracks(
    q: Annotated[str, Query(max_length=200)] = "",
    bpm_from: Annotated[float | None, Query(ge=0, le=1000)] = None,
    bpm_to: Annotated[float | None, Query(ge=0, le=1000)] = None,
    key: Annotated[str | None, Query(max_length=20)] = None,
    key_fits: bool = True,
    genre: Annotated[str | None, Query(max_length=200)] = None,
    month: Annotated[str | None, Query(pattern=r"^\d{4}-\d{2}$")] = None,
    rating_from: Annotated[int | None, Query(ge=0, le=5)] = None,
    energy: Annotated[int | None, Query(ge=0, le=90)] = None,
    crate_id: int | None = None,
) -> Filter:
    return Filter(q, bpm_from, bpm_to, key, key_fits, genre, month, rating_from, energy, crate_id)


Wanted = Annotated[Filter, Depends(wanted_tracks)]


@router.get("/order")
def track_order(
    use: Use, wanted: Wanted, sort: SortName = "added_at", descending: bool = False
) -> models.Order:
    """Ids of the tracks wanted, sorted; rows are fetched apart, as they come into view."""
    connection = use.database.read()
    ids = tracks.order(connection, wanted, sort, descending)
    return models.Order(ids=ids, total=connection.execute("SELECT count(*) FROM track").fetchone()[0])


@router.get("/index")
def track_index(use: Use, wanted: Wanted) -> models.IndexOut:
    """Counts for the pictures above the Shelf."""
    return models.IndexOut.model_validate(tracks.count_by(use.database.read(), wanted))


@router.get("")
def get_tracks(
    use: Use, ids: Annotated[str, Query(pattern=r"^\d+(,\d+)*$", max_length=10_000)]
) -> list[models.TrackOut]:
    """Rows of tracks by id, comma-separated."""
    wanted = [int(part) for part in ids.split(",")]
    if len(wanted) > MOST_ROWS:
        raise LibraryError(f"At most {MOST_ROWS} tracks can be fetched at once.")
    connection = use.database.read()
    marks, rules = cue_marks(connection, wanted), choices.get_finish_rules(connection)
    return [track_out(row, rules, marks.get(row["id"], "")) for row in tracks.get_tracks(connection, wanted)]


@router.put("/rating")
def rate_tracks(use: Use, rating: models.RatingIn) -> models.RatedOut:
    """Give stars to tracks by hand; those whose tags are locked are left out."""
    many = f"{len(rating.ids)} tracks" if len(rating.ids) > 1 else "a track"
    with use.database.write(f"Rate {many} {rating.stars} stars") as connection:
        there = [track["id"] for track in tracks.get_tracks(connection, rating.ids)]
        locked = tracks.rate(connection, there, rating.stars)
    use.changed("tracks", track_ids=rating.ids)
    return models.RatedOut(rated=len(there) - locked, locked=locked)


@router.put("/locks", status_code=204)
def lock_tracks(use: Use, wanted: models.LocksIn) -> None:
    """Lock a part of tracks against edits, analysis and imports, or unlock it."""
    many = f"{len(wanted.ids)} tracks" if len(wanted.ids) > 1 else "a track"
    with use.database.write(
        f"{'Lock' if wanted.locked else 'Unlock'} the {wanted.part} of {many}"
    ) as connection:
        locks.set_lock(connection, wanted.ids, wanted.part, wanted.locked)
    use.changed("tracks", track_ids=wanted.ids)


@router.get("/{track_id}")
def get_workbench(use: Use, track_id: int) -> models.WorkbenchOut:
    """One track with its grid, cues, crates and copies."""
    connection = use.database.read()
    row = tracks.get_track(connection, track_id)
    grid, analysed = grids.get_grid(connection, track_id), grids.analysed_grid(connection, track_id)
    there = cues.list_cues(connection, track_id)
    proposals = templates.proposals_of(connection, track_id)
    left = (
        still_open(proposals, [(cue.position_s, cue.role) for cue in there], grid.tempo_map) if grid else []
    )
    return models.WorkbenchOut(
        track=track_out(
            row, choices.get_finish_rules(connection), cue_marks(connection, [track_id]).get(track_id, "")
        ),
        grid=grid_out(grid) if grid else None,
        analysed=grid_out(analysed) if analysed else None,
        cues=[cue_out(cue) for cue in there],
        proposals=proposals_out(left),
        routes=[route_out(route, row["duration_s"]) for route in routes.list_routes(connection, track_id)],
        crates=[models.CrateName(id=i, name=name) for i, name in crates.crates_of(connection, track_id)],
        copies=imports.list_copies(connection, track_id),
        heard=heard_out(row),
    )


@router.get("/{track_id}/alike")
def get_alike(use: Use, track_id: int, question: Question = "sounds similar") -> list[models.AlikeOut]:
    """The tracks that sound most like one, and whether they are one recording."""
    connection = use.database.read()
    found = use.alike.find(connection, track_id, MOST_ALIKE, question)
    rows = {row["id"]: row for row in tracks.get_tracks(connection, [alike.track_id for alike in found])}
    return [
        models.AlikeOut(
            track_id=alike.track_id,
            title=rows[alike.track_id]["title"],
            artist=rows[alike.track_id]["artist"],
            likeness=alike.likeness,
            relation=compare_tracks(connection, track_id, alike.track_id).relation,
        )
        for alike in found
        if alike.track_id in rows
    ]


@router.get("/{track_id}/waveform", response_class=Response)
def get_waveform(use: Use, track_id: int) -> Response:
    """The waveform summary, gzipped, in the format of vinyl.core.waveform.summary."""
    headers = {"Content-Encoding": "gzip", "Cache-Control": "no-cache"}
    return Response(use.waveforms.read(track_id), media_type="application/octet-stream", headers=headers)


@router.get("/{track_id}/listening", response_class=Response)
def get_listening(
    use: Use,
    track_id: int,
    first_frame: Annotated[int, Query(ge=0, le=2**34)],
    frames: Annotated[int, Query(ge=1, le=MOST_FRAMES)],
) -> Response:
    """Frames of the listening copy: signed 16-bit little-endian stereo at 44,100 Hz; short at the track's end."""
    row = (
        use.database.read().execute("SELECT path, audio_hash FROM track WHERE id = ?", (track_id,)).fetchone()
    )
    if row is None:
        raise NotFoundError(f"Track {track_id} is not in the library (any more).")
    source = use.roots.check(Path(row["path"]))
    if not source.is_file():
        raise NotFoundError(
            f"This track is away: {source} cannot be found. Plug in its drive, or import the folder it lies in now."
        )
    data = use.listening.read(row["audio_hash"], source, first_frame, frames)
    return Response(data, media_type="application/octet-stream", headers={"Cache-Control": "no-store"})


@router.get("/{track_id}/picture", response_class=Response)
def get_picture(use: Use, track_id: int) -> Response:
    """The track's sleeve as a small JPEG."""
    row = tracks.get_track(use.database.read(), track_id)
    picture = read_tags(use.roots.check(Path(row["path"]))).picture if row["has_picture"] else None
    small = small_jpeg(picture, PICTURE_PIXELS) if picture else None
    if small is None:
        raise NotFoundError("This track has no picture.")
    return Response(small, media_type="image/jpeg", headers={"Cache-Control": "max-age=3600"})
