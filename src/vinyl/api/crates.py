"""Crates."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.chosen import chosen_ids
from vinyl.api.logbook_out import warnings_out
from vinyl.api.models.crates import (
    Added,
    CrateChange,
    CrateIn,
    CrateOut,
    CrateTracks,
    IntoCrate,
    IntoFolder,
    NoteIn,
    PlacesOut,
)
from vinyl.api.models.playlists import WantedIds, WantedOut
from vinyl.api.services import Use
from vinyl.library import crates as stored
from vinyl.library import places, wanted
from vinyl.operations import crates

router = APIRouter(prefix="/api/crates", tags=["crates"])


@router.get("")
def list_crates(use: Use) -> list[CrateOut]:
    """All crates in their order."""
    return [CrateOut.model_validate(crate) for crate in stored.list_crates(use.database.read())]


@router.post("", status_code=201)
def make_crate(use: Use, wanted: CrateIn) -> CrateOut:
    """Make an empty crate, or a folder."""
    return CrateOut.model_validate(crates.make(use.database, wanted.name, wanted.folder_id, wanted.is_folder))


@router.patch("/{crate_id}")
def change_crate(use: Use, crate_id: int, change: CrateChange) -> CrateOut:
    """Rename a crate, move it among the crates, or let tracks stand in it more than once."""
    changed = crates.change(use.database, crate_id, change.name, change.repeats, change.position)
    return CrateOut.model_validate(changed)


@router.put("/{crate_id}/folder", status_code=204)
def put_into_folder(use: Use, crate_id: int, wanted: IntoFolder) -> None:
    """Move a crate, or a folder, into a folder or out of all."""
    crates.put_into_folder(use.database, crate_id, wanted.folder_id, wanted.before_id)


@router.delete("/{crate_id}", status_code=204)
def delete_crate(use: Use, crate_id: int) -> None:
    """Delete a crate, or a folder with what is in it; tracks stay in the library."""
    crates.delete(use.database, crate_id)


@router.post("/{crate_id}/tracks")
def add_to_crate(use: Use, crate_id: int, wanted: IntoCrate) -> Added:
    """Put tracks into a crate, at a place or at its end."""
    ids = chosen_ids(use, wanted)
    added, warned = crates.add_tracks(use.database, crate_id, ids, wanted.at, wanted.out_of, wanted.places)
    warnings = warnings_out(use.database.read(), warned)
    return Added(added=added, already_in=len(ids) - added, warnings=warnings)


@router.post("/{crate_id}/tracks/remove", status_code=204)
def remove_from_crate(use: Use, crate_id: int, wanted: CrateTracks) -> None:
    """Take places out of a crate; the tracks stay in the library."""
    crates.take_out(use.database, crate_id, wanted.places)


@router.post("/{crate_id}/tracks/move", status_code=204)
def move_in_crate(use: Use, crate_id: int, wanted: CrateTracks) -> None:
    """Move tracks to a place among the others of a crate."""
    crates.move_tracks(use.database, crate_id, wanted.places, wanted.at or 0, wanted.behind)


@router.get("/{crate_id}/places")
def list_places(use: Use, crate_id: int) -> PlacesOut:
    """The tracks of a crate by hand in its own order, with what is noted on their places."""
    read = use.database.read()
    stored.get_crate(read, crate_id)
    there = places.list_places(read, crate_id)
    named = zip(there.names, there.track_ids, strict=True)
    return PlacesOut(
        places=list(there.names),
        repeated={name: track_id for name, track_id in named if name < 0},
        notes=places.list_notes(read, crate_id),
    )


@router.put("/{crate_id}/notes", status_code=204)
def put_note(use: Use, crate_id: int, wanted: NoteIn) -> None:
    """Note something on places of a crate by hand, or nothing."""
    crates.put_note(use.database, crate_id, wanted.places, wanted.note)


@router.get("/{crate_id}/wanted")
def list_wanted(use: Use, crate_id: int) -> list[WantedOut]:
    """What is wanted in a crate and not owned yet, in its order; the first of it where it is much."""
    stored.get_crate(use.database.read(), crate_id)
    return [WantedOut.model_validate(place) for place in wanted.list_wanted(use.database.read(), crate_id)]


@router.post("/{crate_id}/wanted/remove", status_code=204)
def remove_wanted(use: Use, crate_id: int, unwanted: WantedIds) -> None:
    """Want entries of a crate no more."""
    crates.want_no_more(use.database, crate_id, unwanted.ids)
