"""The Shelf: finding, sorting, rating; and what one track is made of."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Header, Query, Response

from vinyl.api.chosen import chosen_ids, order_of
from vinyl.api.convert import cue_out, grid_out, heard_out, job_out, proposals_out, route_out, tracks_out
from vinyl.api.models.conditions import to_core
from vinyl.api.models.crates import CrateName
from vinyl.api.models.jobs import JobOut
from vinyl.api.models.tracks import (
    CueKindOut,
    CuesOfIn,
    DeletedOut,
    DifferenceOut,
    DifferencesOut,
    FindIn,
    IdsIn,
    IdsOut,
    IndexOut,
    LockedOut,
    LocksIn,
    ManyIn,
    PicturesIn,
    RatedOut,
    RatingIn,
    RepairOut,
    RepairsOut,
    RowsIn,
    TrackOut,
    WindowOut,
)
from vinyl.api.models.workbench import AlikeOut, WorkbenchOut
from vinyl.api.services import Use
from vinyl.core.cues.proposals import still_open
from vinyl.core.likeness.index import Question
from vinyl.core.rules.finishing import Part
from vinyl.jobs.packing import sleeve_of
from vinyl.library import (
    analyses,
    clearing,
    crates,
    cues,
    find,
    grids,
    imports,
    locks,
    pictures,
    repairs,
    routes,
    tracks,
)
from vinyl.library.clearing import KINDS
from vinyl.library.errors import NotFoundError
from vinyl.library.likeness import compare_tracks, later_s
from vinyl.library.spelling import find_meant, forgiving
from vinyl.media.listening import RATE_HZ
from vinyl.operations import tracks as operations

MOST_FRAMES = 60 * RATE_HZ
PICTURE_PIXELS = 400
PICTURE_LIMIT_S = 20.0
MOST_ALIKE = 5
MOST_REPAIRS_SHOWN = 200
MOST_REREAD = 200
LONGEST_SHOWN = 200
# So many are rated while the user waits: half a second in a library of 300,000.
MOST_RATED = 20_000

router = APIRouter(prefix="/api/tracks", tags=["tracks"])


@router.post("/find")
def find_tracks(use: Use, wanted: FindIn) -> WindowOut:
    """A window of the tracks that meet a condition, sorted."""
    connection = use.database.read()
    window, read_as = find_meant(
        connection, to_core(wanted.where), order_of(wanted), wanted.offset, wanted.limit
    )
    return WindowOut(
        rows=tracks_out(connection, window.rows, use.keeper, wanted.venue_id),
        total=window.total,
        library=find.count(connection),
        read_as=read_as,
    )


@router.post("/ids")
def find_ids(use: Use, wanted: IdsIn) -> IdsOut:
    """Ids of a stretch of the tracks that meet a condition, sorted: for going through them one by one."""
    connection = use.database.read()
    condition = forgiving(connection, to_core(wanted.where)).condition
    ids = find.find_ids(connection, condition, order_of(wanted), wanted.offset, wanted.limit)
    return IdsOut(ids=ids, total=find.count(connection, condition), library=find.count(connection))


@router.post("/pictures")
def count_pictures(use: Use, wanted: PicturesIn) -> IndexOut:
    """Counts for the pictures above the Shelf."""
    connection = use.database.read()
    condition = forgiving(connection, to_core(wanted.where)).condition
    counts = pictures.count_pictures(connection, condition, wanted.names, wanted.tags)
    return IndexOut(**{name: counts.get(name, {}) for name in IndexOut.model_fields})


@router.post("/rows")
def get_rows(use: Use, wanted: RowsIn) -> list[TrackOut]:
    """Rows of tracks by id."""
    connection = use.database.read()
    return tracks_out(connection, find.get_rows(connection, wanted.ids), use.keeper, wanted.venue_id)


@router.put("/rating")
def rate_tracks(use: Use, rating: RatingIn) -> RatedOut:
    """Give stars to tracks by hand, to very many in the background; those whose tags are locked are left
    out.
    """
    ids = chosen_ids(use, rating)
    if len(ids) > MOST_RATED:
        job = operations.begin_rating(use.editor, ids, rating.stars)
        return RatedOut(rated=0, locked=0, job=job_out(job))
    locked = operations.rate(use.database, ids, rating.stars)
    return RatedOut(rated=len(ids) - locked, locked=locked)


@router.post("/tags/differences")
def tag_differences(use: Use, wanted: ManyIn) -> DifferencesOut:
    """What the files of the first of these tracks say that is not what was read of them before."""
    ids = chosen_ids(use, wanted)
    looked_at = ids[:MOST_REREAD]
    found = use.rereader.differences(looked_at)
    titles = {row["id"]: row["title"] for row in find.get_rows(use.database.read(), looked_at)}
    return DifferencesOut(
        differences=[
            DifferenceOut(
                track_id=each.track_id,
                title=titles.get(each.track_id, ""),
                field=each.field,
                before=_short(each.before),
                after=_short(each.after),
            )
            for each in found
        ],
        more=len(ids) - len(looked_at),
    )


@router.post("/tags/again", status_code=202)
def read_tags_again(use: Use, wanted: ManyIn) -> JobOut:
    """Take in what the files of tracks say now, in the background; what was set by hand or is locked goes on
    to win.
    """
    return job_out(use.rereader.add(chosen_ids(use, wanted)))


@router.post("/repairs")
def preview_repairs(use: Use, wanted: ManyIn) -> RepairsOut:
    """Texts of tracks that were read in a wrong encoding, and what they were meant to be."""
    found = repairs.find_repairs(use.database.read(), chosen_ids(use, wanted))
    shown = [RepairOut.model_validate(repair) for repair in found[:MOST_REPAIRS_SHOWN]]
    return RepairsOut(repairs=shown, total=len(found))


@router.post("/repairs/apply")
def apply_repairs(use: Use, wanted: ManyIn) -> RepairsOut:
    """Set what the texts were meant to be, by hand; the files stay as they are."""
    found = operations.repair_texts(use.database, chosen_ids(use, wanted))
    return RepairsOut(repairs=[], total=len(found))


@router.put("/locks")
def lock_tracks(use: Use, wanted: LocksIn) -> LockedOut:
    """Lock a part of tracks against edits, analysis and imports, or unlock it; those without a grid are left
    out where grids are locked.
    """
    ids = chosen_ids(use, wanted)
    without = operations.lock(use.database, ids, wanted.part, wanted.locked)
    return LockedOut(tracks=len(ids) - without, without_grid=without)


@router.post("/locks/count")
def count_locks(use: Use, wanted: ManyIn) -> dict[Part, int]:
    """On how many of the tracks each part is locked."""
    return locks.count_locks(use.database.read(), chosen_ids(use, wanted))


@router.post("/cues/count")
def count_cues(use: Use, wanted: ManyIn) -> list[CueKindOut]:
    """How many cues of each kind the tracks have that can be deleted; locked ones do not count."""
    counts = clearing.count_cues(use.database.read(), chosen_ids(use, wanted))
    return [CueKindOut(kind=kind, name=KINDS[kind], cues=count) for kind, count in counts.items()]


@router.post("/cues/delete")
def delete_cues(use: Use, wanted: CuesOfIn) -> DeletedOut:
    """Delete all cues of a kind; tracks whose cues are locked keep theirs."""
    return DeletedOut.model_validate(
        operations.delete_cues(use.database, chosen_ids(use, wanted), wanted.kind)
    )


@router.get("/{track_id}")
def get_workbench(use: Use, track_id: int) -> WorkbenchOut:
    """One track with its grid, cues, crates and copies."""
    connection = use.database.read()
    row = tracks.get_track(connection, track_id)
    grid, analysed = grids.get_grid(connection, track_id), grids.analysed_grid(connection, track_id)
    there, structure = cues.list_cues(connection, track_id), analyses.structure_of(connection, track_id)
    answered = [(cue.position_s, cue.role) for cue in there]
    proposed = [*structure.proposals, *analyses.chapters_of(connection, track_id)]
    left = still_open(proposed, answered, grid.tempo_map if grid else None)
    (track,) = tracks_out(connection, [row], use.keeper)
    return WorkbenchOut(
        track=track,
        grid=grid_out(grid) if grid else None,
        analysed=grid_out(analysed) if analysed else None,
        cues=[cue_out(cue) for cue in there],
        proposals=proposals_out(left),
        routes=[route_out(route, row["duration_s"]) for route in routes.list_routes(connection, track_id)],
        crates=[CrateName(id=i, name=name) for i, name in crates.named(connection, track.lists)],
        copies=imports.list_copies(connection, track_id),
        heard=heard_out(analyses.heard_of(connection, track_id), structure),
    )


@router.post("/{track_id}/checked")
def confirm_file(use: Use, track_id: int) -> TrackOut:
    """Say of a track whose file was replaced that its grid and cues fit the new sound."""
    operations.confirm_file(use.database, track_id)
    read = use.database.read()
    return tracks_out(read, [tracks.get_track(read, track_id)], use.keeper)[0]


@router.post("/{track_id}/alike")
def get_alike(use: Use, track_id: int, question: Question = "sounds similar") -> list[AlikeOut]:
    """The tracks that sound most like one, and whether they are one recording."""
    connection = use.database.read()
    found = use.alike.find(connection, track_id, MOST_ALIKE, question)
    rows = {row["id"]: row for row in find.get_rows(connection, [alike.track_id for alike in found])}
    matches = {i: compare_tracks(connection, track_id, i) for i in rows}
    return [
        AlikeOut(
            track_id=alike.track_id,
            title=rows[alike.track_id]["title"],
            artist=rows[alike.track_id]["artist"],
            likeness=alike.likeness,
            relation=matches[alike.track_id].relation,
            later_s=later_s(use.waveforms, track_id, alike.track_id, matches[alike.track_id]),
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
    """Frames of the listening copy: signed 16-bit little-endian stereo at 44,100 Hz; short at the track's
    end.
    """
    row = tracks.get_file(use.database.read(), track_id)
    source = use.roots.check(Path(row["path"]))
    if not source.is_file():
        raise NotFoundError(
            f"This track is away: {source} cannot be found. Plug in its "
            "drive, or import the folder it lies in now."
        )
    data = use.listening.read(row["audio_hash"], source, first_frame, frames)
    return Response(data, media_type="application/octet-stream", headers={"Cache-Control": "no-store"})


@router.get("/{track_id}/picture", response_class=Response)
def get_picture(use: Use, track_id: int, if_none_match: Annotated[str | None, Header()] = None) -> Response:
    """The track's sleeve as a small JPEG; a browser asks each time whether the file is still the same."""
    row = tracks.get_file(use.database.read(), track_id)
    headers = {"Cache-Control": "no-cache", "ETag": f'"{row["modified_ns"]}-{row["size_bytes"]}"'}
    if if_none_match == headers["ETag"]:
        return Response(status_code=304, headers=headers)
    small = None
    if row["has_picture"]:
        source = use.roots.check(Path(row["path"]))
        small = use.quick.run(sleeve_of, str(source), PICTURE_PIXELS, timeout_s=PICTURE_LIMIT_S)
    if small is None:
        raise NotFoundError("This track has no picture.")
    return Response(small, media_type="image/jpeg", headers=headers)


def _short(text: str | None) -> str | None:
    return text and text[:LONGEST_SHOWN]
