"""Playlist files of other programs: what they would bring, and bringing them in."""

from __future__ import annotations

from pathlib import Path

from fastapi import APIRouter

from vinyl.api.convert import import_out
from vinyl.api.models.playlists import (
    BringIn,
    BroughtOut,
    ColumnsBody,
    EntryOut,
    LookIn,
    LookOut,
    MappingOut,
    StateCounts,
    TableOut,
)
from vinyl.api.services import Use
from vinyl.core.foreign_paths import PathMapping
from vinyl.exchange.lists import Columns
from vinyl.exchange.lists.model import Table
from vinyl.jobs.listing import ListChoice, ListLook, entries_of
from vinyl.jobs.resolving import Resolved
from vinyl.library import imports

router = APIRouter(prefix="/api/playlists", tags=["arrivals"])


@router.post("/look")
def look_at_playlist(use: Use, wanted: LookIn) -> LookOut:
    """What a playlist would bring, understood in a way; nothing is changed."""
    return _look_out(use.lister.look(Path(wanted.path), _choice(wanted)))


@router.post("", status_code=201)
def bring_playlist_in(use: Use, wanted: BringIn) -> BroughtOut:
    """Make a crate of a playlist; what lies on the disk is imported, what is nowhere is wanted."""
    crate_id, job = use.lister.bring_in(Path(wanted.path), _choice(wanted), wanted.name)
    outcomes = imports.outcomes_of(use.database.read(), job.id)
    return BroughtOut(crate_id=crate_id, run=import_out(job, outcomes))


def _choice(wanted: LookIn) -> ListChoice:
    return ListChoice(
        tuple(PathMapping(each.there, each.here) for each in wanted.mappings),
        wanted.by_names,
        Columns(**wanted.columns.model_dump()) if wanted.columns else None,
    )


def _look_out(look: ListLook) -> LookOut:
    playlist = look.playlist
    counts = {state.replace(" ", "_"): count for state, count in look.counts.items()}
    return LookOut(
        name=playlist.name,
        encoding=playlist.encoding,
        total=len(entries_of(playlist)),
        passed_over=playlist.passed_over,
        marks=sum(len(sheet.marks) for sheet in playlist.sheets),
        counts=StateCounts(**{**dict.fromkeys(StateCounts.model_fields, 0), **counts}),
        entries=[_entry_out(each) for each in look.resolved],
        proposals=[
            MappingOut(there=each.mapping.there, here=each.mapping.here, finds=each.finds)
            for each in look.proposals
        ],
        table=_table_out(playlist.table) if playlist.table else None,
    )


def _entry_out(resolved: Resolved) -> EntryOut:
    entry = resolved.entry
    return EntryOut(
        artist=entry.artist,
        title=entry.title,
        path=entry.path,
        state=resolved.state,
        track_id=resolved.track_id,
        file=resolved.file,
        reason=resolved.reason,
    )


def _table_out(table: Table) -> TableOut:
    return TableOut(
        head=list(table.head),
        rows=[list(row) for row in table.rows],
        columns=ColumnsBody.model_validate(table.columns),
    )
