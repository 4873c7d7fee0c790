"""Describing many tracks at once: values by hand, edits of texts, colours, shared backings, plays."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from vinyl.api.chosen import chosen_ids
from vinyl.api.convert import job_out, tracks_out
from vinyl.api.models.describing import (
    BackingOut,
    ColourMeaning,
    CommonIn,
    CommonOut,
    EditIn,
    InCommonOut,
    LikelyOut,
    PlayedIn,
    ReplaceEdit,
    TextChangeOut,
    TextChangesOut,
    TextEditIn,
    TogetherIn,
)
from vinyl.api.models.tags import GivenOut, TracksOut
from vinyl.api.models.tracks import Chosen
from vinyl.api.services import Use
from vinyl.core.rules.text_edits import Replace
from vinyl.library import backings, choices, describing, find
from vinyl.library.choices import CueColour
from vinyl.library.describing import TextChange, TextName
from vinyl.library.errors import LibraryError
from vinyl.operations import tracks

MOST_SHOWN = 200
LONGEST_SHOWN = 300
# So many values are written while the user waits: half a second in a library of 300,000.
MOST_EDITED = 10_000

router = APIRouter(prefix="/api", tags=["describing"])


@router.post("/tracks/common")
def in_common(use: Use, wanted: CommonIn) -> InCommonOut:
    """What the chosen tracks have in common, field by field."""
    ids = chosen_ids(use, wanted)
    found = describing.in_common(use.database.read(), ids, wanted.fields)
    return InCommonOut(
        total=len(ids), fields={field: CommonOut.model_validate(each) for field, each in found.items()}
    )


@router.put("/tracks/values")
def edit_values(use: Use, wanted: EditIn) -> GivenOut:
    """Give tracks values by hand, very many in the background; those whose tags are locked are left out."""
    ids = chosen_ids(use, wanted)
    if len(ids) * len(wanted.values) > MOST_EDITED:
        job = tracks.begin_editing(use.editor, ids, wanted.values)
        return GivenOut(changed=0, locked=0, job=job_out(job))
    locked = tracks.edit_values(use.database, ids, wanted.values)
    return GivenOut(changed=len(ids) - locked, locked=locked)


@router.get("/completions/{field}")
def complete(use: Use, field: TextName, begun: Annotated[str, Query(max_length=200)] = "") -> list[str]:
    """Texts that tracks have in a field and that begin so, the commonest first."""
    return describing.completions(use.database.read(), field, begun)


@router.post("/tracks/texts/preview")
def preview_edit(use: Use, wanted: TextEditIn) -> TextChangesOut:
    """What an edit of texts would change."""
    return _changes_out(_changes(use, wanted, chosen_ids(use, wanted)))


@router.post("/tracks/texts")
def edit_texts(use: Use, wanted: TextEditIn) -> TextChangesOut:
    """Edit texts by hand; files stay as they are."""
    ids = chosen_ids(use, wanted)
    name = _WORDS[wanted.edit.kind]
    return _changes_out(tracks.edit_texts(use.database, ids, name, lambda: _changes(use, wanted, ids)))


@router.get("/track-colours")
def list_colours(use: Use) -> list[ColourMeaning]:
    """The colours that tracks can have, and what each means."""
    found = choices.list_colours(use.database.read(), "track_colour")
    return [ColourMeaning.model_validate(each) for each in found]


@router.put("/track-colours")
def name_colours(use: Use, colours: list[ColourMeaning]) -> list[ColourMeaning]:
    """Say what colours of tracks mean."""
    meant = [CueColour(**each.model_dump()) for each in colours]
    tracks.name_colours(use.database, meant, "track_colour")
    return list_colours(use)


@router.get("/backings")
def list_backings(use: Use) -> list[BackingOut]:
    """All groups of tracks over a shared instrumental."""
    return [BackingOut.model_validate(each) for each in backings.list_backings(use.database.read())]


@router.get("/tracks/{track_id}/backing")
def propose_backing(use: Use, track_id: int) -> list[LikelyOut]:
    """The tracks that seem to lie over the same instrumental as one."""
    connection = use.database.read()
    likely = backings.propose(connection, use.alike, track_id)
    rows = tracks_out(connection, find.get_rows(connection, [each.track_id for each in likely]), use.keeper)
    matches = {each.track_id: each.match for each in likely}
    return [
        LikelyOut(track=row, relation=matches[row.id].relation, covered=matches[row.id].covered)
        for row in rows
    ]


@router.put("/backings")
def put_together(use: Use, wanted: TogetherIn) -> list[BackingOut]:
    """Put tracks into a group over one instrumental."""
    tracks.put_over_backing(use.database, chosen_ids(use, wanted), wanted.name, wanted.backing_id)
    return list_backings(use)


@router.post("/backings/apart")
def take_apart(use: Use, wanted: Chosen) -> list[BackingOut]:
    """Take tracks out of their groups."""
    tracks.take_from_backing(use.database, chosen_ids(use, wanted))
    return list_backings(use)


@router.post("/tracks/played")
def note_played(use: Use, wanted: PlayedIn) -> TracksOut:
    """Note that tracks were played."""
    ids = chosen_ids(use, wanted)
    tracks.note_played(use.database, ids, wanted.at)
    return TracksOut(tracks=len(ids))


@router.post("/tracks/played/last")
def forget_last_play(use: Use, wanted: Chosen) -> TracksOut:
    """Forget the newest play of each track that was noted by hand."""
    return TracksOut(tracks=tracks.forget_last_play(use.database, chosen_ids(use, wanted)))


_WORDS = {"replace": "Find and replace in texts", "clean": "Clean up texts", "split names": "Split the names"}


def _changes(use: Use, wanted: TextEditIn, ids: list[int]) -> list[TextChange]:
    connection, edit = use.database.read(), wanted.edit
    if edit.kind == "split names":
        return describing.split_names(connection, ids)
    if not wanted.fields:
        raise LibraryError("Choose the fields whose texts are to be edited.")
    change = (
        Replace(edit.find, edit.put, edit.match_case, edit.whole_words)
        if isinstance(edit, ReplaceEdit)
        else describing.cleaned(edit.spaces, edit.case)
    )
    return describing.changes_by(connection, ids, wanted.fields, change)


def _changes_out(changes: list[TextChange]) -> TextChangesOut:
    shown = [
        TextChangeOut(
            track_id=each.track_id,
            field=each.field,
            before=each.before[:LONGEST_SHOWN],
            after=each.after[:LONGEST_SHOWN],
        )
        for each in changes[:MOST_SHOWN]
    ]
    return TextChangesOut(
        changes=shown, total=len(changes), tracks=len({change.track_id for change in changes})
    )
