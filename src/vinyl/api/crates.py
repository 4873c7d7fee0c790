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
from vinyl.library import crates, list_documents, logbook, places, wanted

router = APIRouter(prefix="/api/crates", tags=["crates"])


@router.get("")
def list_crates(use: Use) -> list[CrateOut]:
    """All crates in their order."""
    return [CrateOut.model_validate(crate) for crate in crates.list_crates(use.database.read())]


@router.post("", status_code=201)
def make_crate(use: Use, wanted: CrateIn) -> CrateOut:
    """Make an empty crate, or a folder."""
    kind = "folder" if wanted.is_folder else "crate"
    with use.database.write(f"Make the {kind} “{wanted.name}”") as connection:
        made = crates.make_crate(connection, wanted.name, wanted.folder_id, wanted.is_folder)
        crate = crates.get_crate(connection, made)
    use.changed("lists", "undo")
    return CrateOut.model_validate(crate)


@router.patch("/{crate_id}")
def change_crate(use: Use, crate_id: int, change: CrateChange) -> CrateOut:
    """Rename a crate, move it among the crates, or let tracks stand in it more than once."""
    old = crates.get_crate(use.database.read(), crate_id).name
    what = f"Rename the crate “{old}” to “{change.name}”" if change.name else f"Move the crate “{old}”"
    if change.repeats is not None:
        what = f"Let tracks stand in “{old}” {'more than once' if change.repeats else 'once only'}"
    with use.database.write(what) as connection:
        if change.name is not None:
            crates.rename_crate(connection, crate_id, change.name)
        if change.repeats is not None:
            crates.allow_repeats(connection, crate_id, change.repeats)
        if change.position is not None:
            crates.move_crate(connection, crate_id, change.position)
        crate = crates.get_crate(connection, crate_id)
    use.changed("lists", "undo")
    return CrateOut.model_validate(crate)


@router.put("/{crate_id}/folder", status_code=204)
def put_into_folder(use: Use, crate_id: int, wanted: IntoFolder) -> None:
    """Move a crate, or a folder, into a folder or out of all."""
    read = use.database.read()
    name = crates.get_crate(read, crate_id).name
    with use.database.write(f"Move “{name}” among the crates") as connection:
        crates.put_into_folder(connection, crate_id, wanted.folder_id, wanted.before_id)
    use.changed("lists", "undo")


@router.delete("/{crate_id}", status_code=204)
def delete_crate(use: Use, crate_id: int) -> None:
    """Delete a crate, or a folder with what is in it; tracks stay in the library."""
    crate = crates.get_crate(use.database.read(), crate_id)
    kind = "folder" if crate.is_folder else "crate"
    with use.database.write(f"Delete the {kind} “{crate.name}”") as connection:
        list_documents.delete_list(connection, crate_id)
    use.changed("lists", "undo")


@router.post("/{crate_id}/tracks")
def add_to_crate(use: Use, crate_id: int, wanted: IntoCrate) -> Added:
    """Put tracks into a crate, at a place or at its end."""
    name = crates.get_crate(use.database.read(), crate_id).name
    ids = chosen_ids(use, wanted)
    with use.database.write(f"Put {_counted(len(ids))} into “{name}”") as connection:
        added = crates.add_tracks(connection, crate_id, ids, wanted.at)
        if wanted.out_of is not None and wanted.places is not None:
            crates.take_out(connection, wanted.out_of, wanted.places)
        elif wanted.out_of is not None:
            crates.remove_tracks(connection, wanted.out_of, ids)
    use.changed("lists", "undo")
    read = use.database.read()
    warned = logbook.never_at(read, crates.venue_of(read, crate_id), ids)
    return Added(added=added, already_in=len(ids) - added, warnings=warnings_out(read, warned))


@router.post("/{crate_id}/tracks/remove", status_code=204)
def remove_from_crate(use: Use, crate_id: int, wanted: CrateTracks) -> None:
    """Take places out of a crate; the tracks stay in the library."""
    name = crates.get_crate(use.database.read(), crate_id).name
    with use.database.write(f"Take {_counted(len(wanted.places))} out of “{name}”") as connection:
        crates.take_out(connection, crate_id, wanted.places)
    use.changed("lists", "undo")


@router.post("/{crate_id}/tracks/move", status_code=204)
def move_in_crate(use: Use, crate_id: int, wanted: CrateTracks) -> None:
    """Move tracks to a place among the others of a crate."""
    name = crates.get_crate(use.database.read(), crate_id).name
    with use.database.write(f"Reorder “{name}”") as connection:
        crates.move_tracks(connection, crate_id, wanted.places, wanted.at or 0, wanted.behind)
    use.changed("lists", "undo")


@router.get("/{crate_id}/places")
def list_places(use: Use, crate_id: int) -> PlacesOut:
    """The tracks of a crate by hand in its own order, with what is noted on their places."""
    read = use.database.read()
    crates.get_crate(read, crate_id)
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
    name = crates.get_crate(use.database.read(), crate_id).name
    with use.database.write(f"Note on {_counted(len(wanted.places))} in “{name}”") as connection:
        places.put_note(connection, crate_id, wanted.places, wanted.note)
    use.changed("lists", "undo")


@router.get("/{crate_id}/wanted")
def list_wanted(use: Use, crate_id: int) -> list[WantedOut]:
    """What is wanted in a crate and not owned yet, in its order; the first of it where it is much."""
    crates.get_crate(use.database.read(), crate_id)
    return [WantedOut.model_validate(place) for place in wanted.list_wanted(use.database.read(), crate_id)]


@router.post("/{crate_id}/wanted/remove", status_code=204)
def remove_wanted(use: Use, crate_id: int, unwanted: WantedIds) -> None:
    """Want entries of a crate no more."""
    name = crates.get_crate(use.database.read(), crate_id).name
    count = "an entry" if len(unwanted.ids) == 1 else f"{len(unwanted.ids)} entries"
    with use.database.write(f"Want {count} of “{name}” no more") as connection:
        wanted.remove(connection, unwanted.ids)
    use.changed("lists", "undo")


def _counted(number: int) -> str:
    return "a track" if number == 1 else f"{number} tracks"
