"""Cues and loops on the Workbench."""

from __future__ import annotations

import sqlite3
from dataclasses import replace
from functools import partial

from fastapi import APIRouter

from vinyl.api.convert import cue_out
from vinyl.api.models.cues import CueChange, CueColourBody, CueIn, CueOut, CuesIn, MovedCue, OntoGridIn
from vinyl.api.services import Use
from vinyl.core.cues.cue import Cue
from vinyl.core.cues.moving import Span, onto_grid
from vinyl.core.cues.placing import Move, length_after_move_s, loop_length_s, moved, snapped, usual_colour
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.library import choices, cues, grids, tracks
from vinyl.library.errors import LibraryError
from vinyl.operations import tracks as operations
from vinyl.operations import workbench

router = APIRouter(prefix="/api", tags=["cues"])


@router.post("/tracks/{track_id}/cues", status_code=201)
def add_cue(use: Use, track_id: int, wanted: CueIn) -> CueOut:
    """Set a cue or a loop, snapped to the grid."""
    kind = "loop" if wanted.length_beats or wanted.length_s else "cue"
    row = tracks.get_track(use.database.read(), track_id)
    return cue_out(
        workbench.add_cue(use.database, track_id, kind, lambda connection: _made(connection, row, wanted))
    )


@router.post("/tracks/{track_id}/cues/several", status_code=201)
def add_cues(use: Use, track_id: int, wanted: CuesIn) -> list[CueOut]:
    """Set several cues in one step, such as all that are proposed."""
    row = tracks.get_track(use.database.read(), track_id)
    made = [partial(_made, row=row, wanted=cue) for cue in wanted.cues]
    return [cue_out(cue) for cue in workbench.add_cues(use.database, track_id, made)]


@router.post("/tracks/{track_id}/cues/onto-grid")
def move_onto_grid(use: Use, track_id: int, wanted: OntoGridIn) -> list[MovedCue]:
    """How far each cue and loop would move to lie on the grid; with ``apply`` they are moved."""
    row = tracks.get_track(use.database.read(), track_id)
    if wanted.apply:
        moves = workbench.move_cues(
            use.database, track_id, lambda connection: _moves(connection, row, wanted)
        )
    else:
        moves = _moves(use.database.read(), row, wanted)
    return [
        MovedCue(
            cue_id=old.id,
            label=old.label,
            from_s=old.position_s,
            to_s=new.position_s,
            by_ms=1000 * (new.position_s - old.position_s),
        )
        for old, new in moves
    ]


@router.post("/tracks/{track_id}/cues/number-pads")
def number_pads(use: Use, track_id: int) -> list[CueOut]:
    """Put the cues that are on pads onto pads 1, 2, 3… in order of time."""
    return [cue_out(cue) for cue in workbench.number_pads(use.database, track_id)]


@router.patch("/tracks/{track_id}/cues/{cue_id}")
def change_cue(use: Use, track_id: int, cue_id: int, change: CueChange) -> CueOut:
    """Change what is given of a cue."""
    row = tracks.get_track(use.database.read(), track_id)

    def changed(connection: sqlite3.Connection) -> Cue:
        cue = cues.get_cue(connection, track_id, cue_id)
        return _changed(cue, change, _map_of(connection, track_id), row["duration_s"])

    return cue_out(workbench.change_cue(use.database, track_id, changed))


@router.delete("/tracks/{track_id}/cues/{cue_id}", status_code=204)
def delete_cue(use: Use, track_id: int, cue_id: int) -> None:
    """Delete a cue."""
    workbench.delete_cue(use.database, track_id, cue_id)


@router.get("/cue-labels")
def list_labels(use: Use) -> list[str]:
    """Names for cues to choose from, the user's own first."""
    return choices.list_labels(use.database.read())


@router.get("/cue-colours")
def list_colours(use: Use) -> list[CueColourBody]:
    """What the colours of cues are called and by which sign they are told apart."""
    return [CueColourBody.model_validate(colour) for colour in choices.list_colours(use.database.read())]


@router.put("/cue-colours")
def name_colours(use: Use, colours: list[CueColourBody]) -> list[CueColourBody]:
    """Give colours names, signs and shades."""
    named = [choices.CueColour(c.colour, c.name, c.sign, c.hex) for c in colours]
    operations.name_colours(use.database, named, "cue_colour")
    return list_colours(use)


def _map_of(connection: sqlite3.Connection, track_id: int) -> TempoMap | None:
    grid = grids.get_grid(connection, track_id)
    return grid.tempo_map if grid else None


def _made(connection: sqlite3.Connection, row: sqlite3.Row, wanted: CueIn) -> Cue:
    """The cue that is wanted, snapped to the grid."""
    tempo_map = _map_of(connection, row["id"])
    position_s = snapped(tempo_map, wanted.position_s, wanted.snap, row["duration_s"])
    return Cue(
        position_s=position_s,
        length_s=wanted.length_s or loop_length_s(tempo_map, position_s, wanted.length_beats),
        label=wanted.label.strip(),
        role=wanted.role,
        colour=wanted.colour or usual_colour(wanted.role, wanted.pad),
        pad=wanted.pad,
        engages=wanted.engages,
    )


def _moves(connection: sqlite3.Connection, row: sqlite3.Row, wanted: OntoGridIn) -> list[tuple[Cue, Cue]]:
    tempo_map = _map_of(connection, row["id"])
    if tempo_map is None:
        raise LibraryError("This track has no beatgrid yet: type or tap its tempo first.")
    listed = cues.list_cues(connection, row["id"])
    chosen = [cue for cue in listed if wanted.cue_ids is None or cue.id in wanted.cue_ids]
    moves = []
    for cue in chosen:
        span = onto_grid(Span(cue.position_s, cue.length_s), tempo_map, row["duration_s"], wanted.snap)
        moves.append((cue, replace(cue, position_s=span.position_s, length_s=span.length_s)))
    return moves


def _changed(cue: Cue, change: CueChange, tempo_map: TempoMap | None, duration_s: float) -> Cue:
    given = change.model_dump(exclude_unset=True, include={"label", "role", "colour", "pad", "engages"})
    given = {name: value for name, value in given.items() if value is not None or name in ("role", "pad")}
    move = Move(change.position_s, change.snap, change.move_beats, change.move_ms)
    position_s = moved(tempo_map, cue.position_s, move, duration_s)
    if "length_beats" in change.model_fields_set:
        length_s = loop_length_s(tempo_map, position_s, change.length_beats)
    else:
        length_s = length_after_move_s(tempo_map, cue.position_s, cue.length_s, position_s)
    return replace(cue, position_s=position_s, length_s=length_s, **given)
