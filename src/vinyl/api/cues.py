"""Cues and loops on the Workbench."""

from __future__ import annotations

import sqlite3
from dataclasses import replace

from fastapi import APIRouter

from vinyl.api import models
from vinyl.api.convert import cue_out
from vinyl.api.services import Use
from vinyl.core.cues.moving import Span, onto_grid
from vinyl.library import choices, cues, grids, tracks
from vinyl.library.cues import Cue
from vinyl.library.errors import LibraryError

ROLE_COLOURS = {"in": "violet", "main": "vermilion", "out": "ink"}
PAD_COLOURS = ("vermilion", "blue", "ink", "ochre", "green", "violet")

router = APIRouter(prefix="/api", tags=["cues"])


@router.post("/tracks/{track_id}/cues", status_code=201)
def add_cue(use: Use, track_id: int, wanted: models.CueIn) -> models.CueOut:
    """Set a cue or a loop, snapped to the grid."""
    row = tracks.get_track(use.database.read(), track_id)
    with use.database.write(
        f"Set a {'loop' if wanted.length_beats else 'cue'}: {row['title']}"
    ) as connection:
        added = _add(connection, row, wanted)
    use.changed("tracks", track_ids=[track_id])
    return cue_out(added)


@router.post("/tracks/{track_id}/cues/several", status_code=201)
def add_cues(use: Use, track_id: int, wanted: models.CuesIn) -> list[models.CueOut]:
    """Set several cues in one step, such as all that are proposed."""
    row = tracks.get_track(use.database.read(), track_id)
    with use.database.write(f"Set {len(wanted.cues)} cues: {row['title']}") as connection:
        added = [_add(connection, row, cue) for cue in wanted.cues]
    use.changed("tracks", track_ids=[track_id])
    return [cue_out(cue) for cue in added]


@router.post("/tracks/{track_id}/cues/onto-grid")
def move_onto_grid(use: Use, track_id: int, wanted: models.OntoGridIn) -> list[models.MovedCue]:
    """How far each cue and loop would move to lie on the grid; with ``apply`` they are moved."""
    row = tracks.get_track(use.database.read(), track_id)
    if not wanted.apply:
        moves = _moves(use.database.read(), row, wanted)
    else:
        with use.database.write(f"Cues onto the grid: {row['title']}") as connection:
            moves = _moves(connection, row, wanted)
            for _, moved in moves:
                cues.change_cue(connection, track_id, moved)
        use.changed("tracks", track_ids=[track_id])
    return [
        models.MovedCue(
            cue_id=old.id,
            label=old.label,
            from_s=old.position_s,
            to_s=new.position_s,
            by_ms=1000 * (new.position_s - old.position_s),
        )
        for old, new in moves
    ]


@router.post("/tracks/{track_id}/cues/number-pads")
def number_pads(use: Use, track_id: int) -> list[models.CueOut]:
    """Put the cues that are on pads onto pads 1, 2, 3… in order of time."""
    title = tracks.get_track(use.database.read(), track_id)["title"]
    with use.database.write(f"Number the pads by time: {title}") as connection:
        cues.number_pads(connection, track_id)
        listed = cues.list_cues(connection, track_id)
    use.changed("tracks", track_ids=[track_id])
    return [cue_out(cue) for cue in listed]


@router.patch("/tracks/{track_id}/cues/{cue_id}")
def change_cue(use: Use, track_id: int, cue_id: int, change: models.CueChange) -> models.CueOut:
    """Change what is given of a cue."""
    row = tracks.get_track(use.database.read(), track_id)
    with use.database.write(f"Change a cue: {row['title']}") as connection:
        grid = grids.get_grid(connection, track_id)
        cue = _changed(cues.get_cue(connection, track_id, cue_id), change, grid, row["duration_s"])
        cues.change_cue(connection, track_id, cue)
    use.changed("tracks", track_ids=[track_id])
    return cue_out(cue)


@router.delete("/tracks/{track_id}/cues/{cue_id}", status_code=204)
def delete_cue(use: Use, track_id: int, cue_id: int) -> None:
    """Delete a cue."""
    title = tracks.get_track(use.database.read(), track_id)["title"]
    with use.database.write(f"Delete a cue: {title}") as connection:
        cues.get_cue(connection, track_id, cue_id)
        cues.delete_cues(connection, track_id, [cue_id])
    use.changed("tracks", track_ids=[track_id])


@router.get("/cue-labels")
def list_labels(use: Use) -> list[str]:
    """Names for cues to choose from, the user's own first."""
    return choices.list_labels(use.database.read())


@router.get("/cue-colours")
def list_colours(use: Use) -> list[models.CueColourBody]:
    """What the colours of cues are called and by which sign they are told apart."""
    return [
        models.CueColourBody.model_validate(colour) for colour in choices.list_colours(use.database.read())
    ]


@router.put("/cue-colours")
def name_colours(use: Use, colours: list[models.CueColourBody]) -> list[models.CueColourBody]:
    """Give colours names, signs and shades."""
    with use.database.write("Name the colours of cues") as connection:
        choices.name_colours(
            connection, [choices.CueColour(c.colour, c.name, c.sign, c.hex) for c in colours]
        )
    use.changed("library")
    return list_colours(use)


def _add(connection: sqlite3.Connection, row: sqlite3.Row, wanted: models.CueIn) -> Cue:
    grid = grids.get_grid(connection, row["id"])
    position = _snapped(grid, wanted.position_s, wanted.snap, row["duration_s"])
    length = _length(grid, position, wanted.length_beats)
    colour = wanted.colour or _colour(wanted.role, wanted.pad)
    cue = Cue(position, length, wanted.label.strip(), wanted.role, colour, wanted.pad, wanted.engages)
    return cues.get_cue(connection, row["id"], cues.add_cue(connection, row["id"], cue))


def _moves(
    connection: sqlite3.Connection, row: sqlite3.Row, wanted: models.OntoGridIn
) -> list[tuple[Cue, Cue]]:
    grid = grids.get_grid(connection, row["id"])
    if grid is None:
        raise LibraryError("This track has no beatgrid yet: type or tap its tempo first.")
    chosen = [
        cue
        for cue in cues.list_cues(connection, row["id"])
        if wanted.cue_ids is None or cue.id in wanted.cue_ids
    ]
    moves = []
    for cue in chosen:
        span = onto_grid(Span(cue.position_s, cue.length_s), grid.tempo_map, row["duration_s"], wanted.snap)
        moves.append((cue, replace(cue, position_s=span.position_s, length_s=span.length_s)))
    return moves


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
        raise LibraryError(
            "A loop's length is counted in beats, and this track has no beatgrid yet. Type its tempo first."
        )
    start = float(grid.tempo_map.beat_at(position_s))
    return float(grid.tempo_map.time_at(start + beats)) - position_s


def _changed(cue: Cue, change: models.CueChange, grid: grids.Grid | None, duration_s: float) -> Cue:
    given = change.model_dump(exclude_unset=True, include={"label", "role", "colour", "pad", "engages"})
    given = {name: value for name, value in given.items() if value is not None or name in ("role", "pad")}
    position = _moved(cue, change, grid, duration_s)
    if "length_beats" in change.model_fields_set:
        length = _length(grid, position, change.length_beats)
    elif grid is not None and cue.length_s is not None and position != cue.position_s:
        beats = grid.tempo_map.beat_at(cue.position_s + cue.length_s) - grid.tempo_map.beat_at(cue.position_s)
        length = _length(grid, position, float(beats))
    else:
        length = cue.length_s
    return replace(cue, position_s=position, length_s=length, **given)


def _moved(cue: Cue, change: models.CueChange, grid: grids.Grid | None, duration_s: float) -> float:
    position = cue.position_s
    if change.position_s is not None:
        position = _snapped(grid, change.position_s, change.snap, duration_s)
    if change.move_beats is not None:
        if grid is None:
            raise LibraryError(
                "A cue moves by beats, and this track has no beatgrid yet. Type its tempo first."
            )
        position = float(grid.tempo_map.time_at(grid.tempo_map.beat_at(position) + change.move_beats))
    return position + (change.move_ms or 0.0) / 1000.0


def _colour(role: str | None, pad: int | None) -> str:
    if role:
        return ROLE_COLOURS[role]
    return PAD_COLOURS[((pad or 1) - 1) % len(PAD_COLOURS)]
