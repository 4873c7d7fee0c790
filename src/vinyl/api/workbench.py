"""The Workbench: grid edits, cues and loops."""

from __future__ import annotations

from dataclasses import replace

from fastapi import APIRouter

from vinyl.api import models
from vinyl.api.convert import cue_out, grid_out
from vinyl.api.services import Services, Use
from vinyl.core.rhythm import edits
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.library import cues, grids, tracks
from vinyl.library.cues import Cue
from vinyl.library.errors import LibraryError

ROLE_COLOURS = {"in": "violet", "main": "vermilion", "out": "ink"}
PAD_COLOURS = ("vermilion", "blue", "ink", "ochre", "green", "violet")

router = APIRouter(prefix="/api/tracks/{track_id}", tags=["workbench"])


@router.post("/grid")
def edit_grid(use: Use, track_id: int, edit: models.GridEdit) -> models.GridOut:
    """Change the beatgrid; the result counts as made by hand."""
    title = tracks.get_track(use.database.read(), track_id)["title"]
    with use.database.write(f"{edit.edit.capitalize()}: {title}") as connection:
        if isinstance(edit, models.SetTempo) and grids.get_grid(connection, track_id) is None:
            grids.set_grid(connection, track_id, TempoMap.steady(edit.bpm, edit.hold_s or 0.0))
        else:
            grids.edit_grid(connection, track_id, lambda tempo_map: _apply(tempo_map, edit))
    return _grid_now(use, track_id)


@router.delete("/grid")
def reset_grid(use: Use, track_id: int) -> models.GridOut:
    """Go back to the grid found by analysis."""
    title = tracks.get_track(use.database.read(), track_id)["title"]
    with use.database.write(f"Back to the analysed grid: {title}") as connection:
        grids.drop_hand_grid(connection, track_id)
    return _grid_now(use, track_id)


@router.post("/cues", status_code=201)
def add_cue(use: Use, track_id: int, wanted: models.CueIn) -> models.CueOut:
    """Set a cue or a loop, snapped to the grid."""
    row = tracks.get_track(use.database.read(), track_id)
    with use.database.write(f"Set a {'loop' if wanted.length_beats else 'cue'}: {row['title']}") as connection:
        grid = grids.get_grid(connection, track_id)
        position = _snapped(grid, wanted.position_s, wanted.snap, row["duration_s"])
        length = _length(grid, position, wanted.length_beats)
        colour = wanted.colour or _colour(wanted.role, wanted.pad)
        cue = Cue(position, length, wanted.label.strip(), wanted.role, colour, wanted.pad, wanted.engages)
        cue_id = cues.add_cue(connection, track_id, cue)
        added = cues.get_cue(connection, track_id, cue_id)
    use.changed("tracks", track_ids=[track_id])
    return cue_out(added)


@router.patch("/cues/{cue_id}")
def change_cue(use: Use, track_id: int, cue_id: int, change: models.CueChange) -> models.CueOut:
    """Change what is given of a cue."""
    row = tracks.get_track(use.database.read(), track_id)
    with use.database.write(f"Change a cue: {row['title']}") as connection:
        grid = grids.get_grid(connection, track_id)
        cue = _changed(cues.get_cue(connection, track_id, cue_id), change, grid, row["duration_s"])
        cues.change_cue(connection, track_id, cue)
    use.changed("tracks", track_ids=[track_id])
    return cue_out(cue)


@router.delete("/cues/{cue_id}", status_code=204)
def delete_cue(use: Use, track_id: int, cue_id: int) -> None:
    """Delete a cue."""
    title = tracks.get_track(use.database.read(), track_id)["title"]
    with use.database.write(f"Delete a cue: {title}") as connection:
        cues.get_cue(connection, track_id, cue_id)
        cues.delete_cues(connection, track_id, [cue_id])
    use.changed("tracks", track_ids=[track_id])


def _grid_now(use: Services, track_id: int) -> models.GridOut:
    use.changed("tracks", track_ids=[track_id])
    grid = grids.get_grid(use.database.read(), track_id)
    if grid is None:
        raise LibraryError("This track has no beatgrid now: it waits for its analysis, or none was found.")
    return grid_out(grid)


def _apply(tempo_map: TempoMap, edit: models.GridEdit) -> TempoMap:
    match edit:
        case models.Shift():
            return edits.shift(tempo_map, edit.by_s)
        case models.BarStartsHere():
            return edits.bar_starts_here(tempo_map, edit.time_s)
        case models.FirstBarHere():
            return edits.first_bar_here(tempo_map, edit.time_s)
        case models.MoveBeatHere():
            return edits.move_beat_here(tempo_map, edit.time_s)
        case models.Halve():
            return edits.scale_tempo(tempo_map, 0.5)
        case models.Double():
            return edits.scale_tempo(tempo_map, 2.0)
        case models.SetTempo():
            return edits.set_tempo(tempo_map, edit.bpm, edit.hold_s)
        case models.TempoFromHere():
            return edits.tempo_from_here(tempo_map, edit.time_s, edit.bpm)
        case models.SetMetre():
            return edits.set_metre(tempo_map, edit.beats_per_bar)


def _snapped(grid: grids.Grid | None, position_s: float, snap: models.Snap, duration_s: float) -> float:
    """The snapped position, kept within the track; without a grid nothing snaps."""
    if grid is None:
        return position_s
    snapped = grid.tempo_map.snap(position_s, snap)
    return snapped if 0 <= snapped <= duration_s else position_s


def _length(grid: grids.Grid | None, position_s: float, beats: float | None) -> float | None:
    if beats is None:
        return None
    if grid is None:
        raise LibraryError("A loop's length is counted in beats, and this track has no beatgrid yet. Type its tempo first.")
    start = float(grid.tempo_map.beat_at(position_s))
    return float(grid.tempo_map.time_at(start + beats)) - position_s


def _changed(cue: Cue, change: models.CueChange, grid: grids.Grid | None, duration_s: float) -> Cue:
    given = change.model_dump(exclude_unset=True, include={"label", "role", "colour", "pad", "engages"})
    given = {name: value for name, value in given.items() if value is not None or name in ("role", "pad")}
    position = cue.position_s
    if change.position_s is not None:
        position = _snapped(grid, change.position_s, change.snap, duration_s)
    if change.move_beats is not None:
        if grid is None:
            raise LibraryError("A cue moves by beats, and this track has no beatgrid yet. Type its tempo first.")
        position = float(grid.tempo_map.time_at(grid.tempo_map.beat_at(position) + change.move_beats))
    length = _length(grid, position, change.length_beats) if "length_beats" in change.model_fields_set else cue.length_s
    return replace(cue, position_s=position, length_s=length, **given)


def _colour(role: str | None, pad: int | None) -> str:
    if role:
        return ROLE_COLOURS[role]
    return PAD_COLOURS[((pad or 1) - 1) % len(PAD_COLOURS)]
