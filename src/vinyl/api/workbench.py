"""The Workbench's beatgrid: edits, taps, and how well it fits."""

from __future__ import annotations

import struct
from collections.abc import Callable

from fastapi import APIRouter, Response

from vinyl.api.convert import grid_out, job_out
from vinyl.api.models.grid_edits import (
    AddAnchor,
    BarStartsHere,
    DeleteAnchor,
    Double,
    FirstBarHere,
    GridEdit,
    Halve,
    JoinAnchors,
    MoveAnchor,
    MoveBarStarts,
    MoveBeatHere,
    PartTempo,
    PinBeat,
    RescanIn,
    SetMetre,
    SetTempo,
    Shift,
    SnapHere,
    StepTempo,
    StepToOtherEnd,
    Stretch,
    TakeFrom,
    TempoFromHere,
    ThreeForTwo,
    TwoForThree,
)
from vinyl.api.models.jobs import JobOut
from vinyl.api.models.workbench import DriftOut, GridOut, TappedOut, TapsIn
from vinyl.api.services import Use
from vinyl.core.rhythm import anchors, edits
from vinyl.core.rhythm.break_ends import to_other_end
from vinyl.core.rhythm.drift import measure_drift
from vinyl.core.rhythm.onset_times import OnsetTimes
from vinyl.core.rhythm.raster import COLUMNS, MARGIN, bars_in, fold_bars
from vinyl.core.rhythm.stepping import step_tempo
from vinyl.core.rhythm.tapping import tapped_tempo
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.jobs.listening_again import RESCAN
from vinyl.library import grids, locks, tracks
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.operations import workbench as operations
from vinyl.operations.services import Services

router = APIRouter(prefix="/api/tracks/{track_id}", tags=["workbench"])


@router.post("/grid")
def edit_grid(use: Use, track_id: int, edit: GridEdit) -> GridOut:
    """Change the beatgrid; the result counts as made by hand."""
    first = TempoMap.steady(edit.bpm, edit.hold_s or 0.0) if isinstance(edit, SetTempo) else None
    operations.edit_grid(use.database, track_id, edit.edit, _edit_of(use, track_id, edit), first)
    return _grid_now(use, track_id)


@router.post("/grid/rescan", status_code=202)
def rescan_grid(use: Use, track_id: int, wanted: RescanIn) -> JobOut:
    """Have the rhythm heard anew in the background; the result counts as made by hand."""
    locks.check_open(use.database.read(), tracks.get_track(use.database.read(), track_id)["id"], "grid")
    return job_out(use.listener.add(RESCAN, track_id, wanted.model_dump()))


@router.delete("/grid")
def reset_grid(use: Use, track_id: int) -> GridOut:
    """Go back to the grid found by analysis."""
    operations.reset_grid(use.database, track_id)
    return _grid_now(use, track_id)


@router.get("/drift")
def get_drift(use: Use, track_id: int) -> DriftOut:
    """How far attacks lie from the grid, along the track."""
    row = tracks.get_track(use.database.read(), track_id)
    drift = measure_drift(_onset_times(use, track_id), _grid_of(use, track_id), row["duration_s"])
    return DriftOut(
        times_s=drift.times_s.tolist(),
        offset_ms=(1000 * drift.offset_s).round(2).tolist(),
        spread_ms=(1000 * drift.spread_s).round(2).tolist(),
        worst_s=drift.worst_s,
    )


@router.get("/raster", response_class=Response)
def get_raster(use: Use, track_id: int) -> Response:
    """Onsets folded at the grid's bars: three int32 (bars, columns, first bar), a float32 (margin in bars),
    the low and the high band.
    """
    row = tracks.get_track(use.database.read(), track_id)
    onsets, tempo_map = use.waveforms.onsets(track_id), _grid_of(use, track_id)
    bars = bars_in(tempo_map, row["duration_s"])
    bands = [
        fold_bars(band, onsets.rate_hz, tempo_map, row["duration_s"]).tobytes()
        for band in (onsets.low, onsets.high)
    ]
    head = struct.pack("<iiif", len(bars), COLUMNS, bars.start, MARGIN)
    return Response(
        b"".join([head, *bands]), media_type="application/octet-stream", headers={"Cache-Control": "no-store"}
    )


@router.post("/taps")
def tap_tempo(use: Use, track_id: int, taps: TapsIn) -> TappedOut:
    """The tempo of taps given in seconds of the track; nothing is changed."""
    tracks.get_track(use.database.read(), track_id)
    try:
        onset_times = _onset_times(use, track_id)
    except NotFoundError:
        onset_times = None
    return TappedOut.model_validate(tapped_tempo(taps.taps_s, onset_times))


def _grid_now(use: Services, track_id: int) -> GridOut:
    grid = grids.get_grid(use.database.read(), track_id)
    if grid is None:
        raise LibraryError("This track has no beatgrid now: it waits for its analysis, or none was found.")
    return grid_out(grid)


def _grid_of(use: Services, track_id: int) -> TempoMap:
    tracks.get_track(use.database.read(), track_id)
    grid = grids.get_grid(use.database.read(), track_id)
    if grid is None:
        raise LibraryError("That track has no beatgrid yet: choose one that is analysed.")
    return grid.tempo_map


def _onset_times(use: Services, track_id: int) -> OnsetTimes:
    return use.waveforms.onsets(track_id).onset_times


def _edit_of(use: Services, track_id: int, edit: GridEdit) -> Callable[[TempoMap], TempoMap]:
    """What an edit makes of a grid."""
    if isinstance(edit, TakeFrom):
        other, taken = _grid_of(use, edit.track_id), edit
        return lambda tempo_map: _take(tempo_map, other, taken)
    return lambda tempo_map: _apply(use, track_id, tempo_map, edit)


def _take(tempo_map: TempoMap, other: TempoMap, edit: TakeFrom) -> TempoMap:
    return (
        edits.take_map(tempo_map, other)
        if edit.what == "map"
        else edits.set_tempo(tempo_map, other.bpm, edit.hold_s)
    )


def _line(tempo_map: TempoMap, time_s: float) -> float:
    return float(tempo_map.time_at(tempo_map.nearest_beat(time_s)))


def _apply(use: Services, track_id: int, tempo_map: TempoMap, edit: GridEdit) -> TempoMap:
    match edit:
        case Shift():
            return edits.shift(tempo_map, edit.by_s)
        case BarStartsHere():
            return edits.bar_starts_here(tempo_map, edit.time_s)
        case FirstBarHere():
            return edits.first_bar_here(tempo_map, edit.time_s)
        case MoveBarStarts():
            return edits.move_bar_starts(tempo_map, edit.beats)
        case MoveBeatHere():
            return edits.move_beat_here(tempo_map, edit.time_s)
        case SnapHere():
            return edits.move_beat_here(
                tempo_map, _onset_times(use, track_id).nearest(_line(tempo_map, edit.time_s))
            )
        case Halve() | Double() | ThreeForTwo() | TwoForThree():
            return edits.scale_tempo(tempo_map, FACTORS[edit.edit])
        case SetTempo():
            return edits.set_tempo(tempo_map, edit.bpm, edit.hold_s)
        case TempoFromHere():
            return edits.tempo_from_here(tempo_map, edit.time_s, edit.bpm)
        case Stretch():
            to_s = (
                _onset_times(use, track_id).nearest(_line(tempo_map, edit.line_s))
                if edit.to_s is None
                else edit.to_s
            )
            return edits.stretch(tempo_map, edit.hold_s, edit.line_s, to_s)
        case SetMetre():
            return edits.set_metre(tempo_map, edit.beats_per_bar)
    return _apply_anchors(use, track_id, tempo_map, edit)


def _apply_anchors(use: Services, track_id: int, tempo_map: TempoMap, edit: GridEdit) -> TempoMap:
    match edit:
        case PartTempo():
            return anchors.set_part_tempo(tempo_map, edit.time_s, edit.bpm)
        case StepTempo():
            return step_tempo(tempo_map, edit.by_bpm, edit.reach, edit.time_s)
        case StepToOtherEnd():
            return to_other_end(tempo_map, _onset_times(use, track_id), edit.time_s)
        case AddAnchor():
            return anchors.add_anchor(tempo_map, edit.time_s)
        case MoveAnchor():
            return anchors.move_anchor(tempo_map, edit.time_s, edit.to_s)
        case PinBeat():
            to_s = (
                _onset_times(use, track_id).nearest(_line(tempo_map, edit.time_s))
                if edit.to_s is None
                else edit.to_s
            )
            return anchors.pin_beat(tempo_map, edit.time_s, to_s)
        case DeleteAnchor():
            return anchors.delete_anchor(tempo_map, edit.time_s)
        case JoinAnchors():
            return anchors.join_anchors(tempo_map, edit.start_s, edit.end_s)
    raise LibraryError(f"{edit.edit} is no edit of a grid that is there.")


FACTORS = {"halve": 0.5, "double": 2.0, "three for two": 1.5, "two for three": 2.0 / 3.0}
