"""Sets: nights to come, with a tray, a running order, suggestions, and what goes out of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Annotated, cast

from fastapi import APIRouter, Query
from fastapi.responses import Response

from vinyl.api.chosen import chosen_ids
from vinyl.api.files import file_out
from vinyl.api.models.crates import CrateOut
from vinyl.api.models.logbook import Form
from vinyl.api.models.sets import (
    ArcPoint,
    CautionOut,
    ChainStepIn,
    ChainStepOut,
    ClearanceIn,
    ClearanceLine,
    ClearanceOut,
    ClearanceTableIn,
    ClearanceTaken,
    SetAdded,
    SetAddIn,
    SetArcIn,
    SetChangeIn,
    SetEntriesIn,
    SetEntryIn,
    SetEntryOut,
    SetFactsIn,
    SetIn,
    SetJointIn,
    SetJointOut,
    SetLine,
    SetMade,
    SetMoveIn,
    SetOrderIn,
    SetOrderOut,
    SetOut,
    SetWanted,
    SetWantIn,
    SuggestionOut,
)
from vinyl.api.services import Use
from vinyl.core.planning.clearance import Ruling, parse_places
from vinyl.core.planning.fitting import MOST_WEIGHT, Weights
from vinyl.core.planning.mixing import Settings
from vinyl.core.planning.suggesting import Filter
from vinyl.core.planning.transitions import Weight
from vinyl.exchange.night_files import NightFile
from vinyl.exchange.rights.register import StandInRegister
from vinyl.library import chains, crates, find, set_planning, suggesting
from vinyl.library import sets as stored
from vinyl.library.set_planning import Plan, Planned
from vinyl.operations import clearances, sets

SUGGESTED = ("title", "artist", "bpm", "key", "energy", "duration_s", "main_s")

Says = Annotated[float, Query(ge=0, le=MOST_WEIGHT, allow_inf_nan=False)]

router = APIRouter(prefix="/api/sets", tags=["sets"])


@router.get("")
def list_sets(use: Use) -> list[SetLine]:
    """All sets, the last day first."""
    return [SetLine.model_validate(_line(each)) for each in stored.list_sets(use.database.read())]


def _line(dj_set: stored.DjSet) -> dict[str, object]:
    return {name: getattr(dj_set, name) for name in SetLine.model_fields}


@router.post("", status_code=201)
def make_set(use: Use, wanted: SetIn) -> SetMade:
    """Make a set."""
    facts = wanted.model_dump(include={"name", "on_day", "begins", "ends"})
    return SetMade(id=sets.make(use.database, facts, wanted.venue, wanted.crate_id, wanted.gig_id))


@router.get("/{set_id}")
def get_set(use: Use, set_id: int) -> SetOut:
    """A set as it stands, with what speaks against it."""
    plan = set_planning.read_plan(use.database.read(), set_id)
    return SetOut(
        **_line(plan.set),  # type: ignore[arg-type]
        note=plan.set.note,
        tempo_percent=plan.set.tempo_percent,
        key_held=plan.set.key_held,
        arc=[ArcPoint(share=share, energy=energy) for share, energy in plan.set.arc],
        slot_s=plan.set.slot_s,
        lasts_s=plan.lasts_s,
        order=[_entry(plan, each) for each in plan.placed],
        tray=[_entry(plan, each) for each in plan.tray],
        joints=[SetJointOut.model_validate(each) for each in plan.joints],
    )


def _entry(plan: Plan, planned: Planned) -> SetEntryOut:
    told = {
        name: getattr(planned.entry, name)
        for name in SetEntryOut.model_fields
        if hasattr(planned.entry, name)
    }
    return SetEntryOut(
        **told,
        begins_s=planned.begins_s,
        at=sets.at_clock(plan, planned.begins_s),
        cautions=[CautionOut.model_validate(each) for each in planned.cautions],
        last_here=planned.last_here,
        times_here=planned.times_here,
    )


@router.patch("/{set_id}", status_code=204)
def change_set(use: Use, set_id: int, wanted: SetChangeIn) -> None:
    """Change what is known of a set."""
    changes = wanted.model_dump(exclude_none=True, exclude={"venue"})
    sets.change(use.database, set_id, changes, wanted.venue)


@router.put("/{set_id}/arc", status_code=204)
def set_arc(use: Use, set_id: int, wanted: SetArcIn) -> None:
    """Draw the arc that is wanted."""
    sets.set_arc(use.database, set_id, [(each.share, each.energy) for each in wanted.points])


@router.delete("/{set_id}", status_code=204)
def delete_set(use: Use, set_id: int) -> None:
    """Delete a set; tracks stay on the Shelf."""
    sets.delete(use.database, set_id)


@router.post("/{set_id}/copy", status_code=201)
def copy_set(use: Use, set_id: int, wanted: SetFactsIn) -> SetMade:
    """Make a set for another date from one, at its venue."""
    facts = wanted.model_dump(include={"name", "on_day", "begins", "ends"})
    return SetMade(id=sets.copy(use.database, set_id, {name: each for name, each in facts.items() if each}))


@router.post("/{set_id}/tracks")
def add_tracks(use: Use, set_id: int, wanted: SetAddIn) -> SetAdded:
    """Put tracks into the tray or the running order."""
    ids = chosen_ids(use, wanted)
    return SetAdded(added=sets.add(use.database, set_id, ids, wanted.placed, wanted.before))


@router.post("/{set_id}/wanted", status_code=201)
def want_track(use: Use, set_id: int, wanted: SetWantIn) -> SetWanted:
    """Put a track that is not owned yet into the tray or the running order."""
    owned = sets.want(use.database, set_id, wanted.artist, wanted.title, wanted.placed, wanted.before)
    return SetWanted(owned=owned)


@router.post("/{set_id}/move", status_code=204)
def move_entries(use: Use, set_id: int, wanted: SetMoveIn) -> None:
    """Move entries in the running order, into it, or back into the tray."""
    sets.move(use.database, set_id, wanted.entry_ids, wanted.placed, wanted.before)


@router.post("/{set_id}/remove", status_code=204)
def remove_entries(use: Use, set_id: int, wanted: SetEntriesIn) -> None:
    """Take entries out of the set."""
    sets.remove(use.database, set_id, wanted.entry_ids)


@router.patch("/{set_id}/entries/{entry_id}", status_code=204)
def change_entry(use: Use, set_id: int, entry_id: int, wanted: SetEntryIn) -> None:
    """Change an entry's note or pin."""
    sets.change_entry(use.database, set_id, entry_id, wanted.model_dump(exclude_none=True))


@router.put("/{set_id}/joint", status_code=204)
def put_joint(use: Use, set_id: int, wanted: SetJointIn) -> None:
    """Say how two entries are joined."""
    said = stored.Said(Settings(**wanted.settings.model_dump()), wanted.note)
    sets.put_joint(use.database, set_id, wanted.out_id, wanted.in_id, said)


@router.post("/{set_id}/order")
def propose_order(use: Use, set_id: int, wanted: SetOrderIn) -> SetOrderOut:
    """Propose a running order; nothing is changed."""
    weights = cast(Mapping[Weight, float], wanted.weights.model_dump()) if wanted.weights else None
    ids, found = set_planning.propose_order(use.database.read(), set_id, wanted.by, wanted.entry_ids, weights)
    return SetOrderOut(
        entry_ids=ids,
        cost_before=found.cost_before,
        cost_after=found.cost_after,
        joints_before=list(found.between_before),
        joints_after=list(found.between_after),
    )


@router.put("/{set_id}/order", status_code=204)
def reorder(use: Use, set_id: int, wanted: SetEntriesIn) -> None:
    """Put the running order, or a stretch of it, into an order."""
    sets.reorder(use.database, set_id, wanted.entry_ids)


@router.get("/{set_id}/suggestions")
def suggest(
    use: Use,
    set_id: int,
    after: int,
    wanted: Annotated[list[Filter], Query()] = [],  # noqa: B006 - FastAPI reads it
    weeks: Annotated[int, Query(ge=1, le=520)] = 4,
    key: Says = 1.0,
    tempo: Says = 1.0,
    energy: Says = 1.0,
    sound: Says = 1.0,
    tags: Says = 1.0,
    nights: Says = 1.0,
) -> list[SuggestionOut]:
    """What can come after a track, the best first; each part says so many times of the usual."""
    weights = Weights(key, tempo, energy, sound, tags, nights)
    read = use.database.read()
    found = suggesting.suggestions(read, set_id, after, frozenset(wanted), weeks, weights)
    rows = {row["id"]: row for row in find.get_rows(read, [each.track_id for each in found])}
    tray = {entry.track_id for entry in stored.list_entries(read, set_id) if not entry.placed}
    return [
        SuggestionOut(
            track_id=each.track_id,
            in_tray=each.track_id in tray,
            score=each.suggestion.score,
            reasons=list(each.suggestion.reasons),
            doubts=list(each.suggestion.doubts),
            **{name: rows[each.track_id][name] for name in SUGGESTED},
        )
        for each in found
        if each.track_id in rows
    ]


@router.get("/{set_id}/chain")
def list_chain(use: Use, set_id: int) -> list[ChainStepOut]:
    """All steps of the set's chains, in the order they were made."""
    read = use.database.read()
    stored.get_set(read, set_id)
    return [ChainStepOut.model_validate(each) for each in chains.list_steps(read, set_id)]


@router.post("/{set_id}/chain", status_code=201)
def go_on(use: Use, set_id: int, wanted: ChainStepIn) -> SetMade:
    """Go on to a track, or begin a chain with it; the step that is there where one went so before."""
    return SetMade(id=sets.go_on(use.database, set_id, wanted.track_id, wanted.from_id))


@router.delete("/{set_id}/chain/{step_id}", status_code=204)
def take_back(use: Use, set_id: int, step_id: int) -> None:
    """Take a step back, with all that was gone on to from it."""
    sets.take_back(use.database, set_id, step_id)


@router.get("/{set_id}/clearance")
def get_clearance(use: Use, set_id: int) -> ClearanceOut:
    """Whether the set's recording may be published, and each track's part in that."""
    read = use.database.read()
    found, plan = clearances.read_clearance(read, set_id), set_planning.read_plan(read, set_id)
    return ClearanceOut(
        may=found.publication.may,
        words=list(found.publication.words),
        lines=[
            ClearanceLine(
                track_id=line.track_id,
                artist=line.recording.artist,
                title=line.recording.title,
                at=sets.at_clock(plan, line.at_s),
                is_doubtful=line.ruling.is_doubtful,
                **{**asdict(line.ruling), "places": list(line.ruling.places)},
            )
            for line in found.lines
        ],
    )


@router.put("/{set_id}/clearance", status_code=204)
def say_clearance(use: Use, set_id: int, wanted: ClearanceIn) -> None:
    """Say by hand whether tracks may be published within a recording."""
    stored.get_set(use.database.read(), set_id)
    ruling = Ruling(wanted.state, parse_places(wanted.places), wanted.condition)
    clearances.say(use.database, wanted.track_ids, ruling)


@router.post("/{set_id}/clearance/ask")
def ask_register(use: Use, set_id: int) -> ClearanceTaken:
    """Ask the register of rights about the set's tracks."""
    return ClearanceTaken.model_validate(clearances.ask(use.database, set_id, StandInRegister()))


@router.post("/{set_id}/clearance/table")
def read_clearance_table(use: Use, set_id: int, wanted: ClearanceTableIn) -> ClearanceTaken:
    """Take clearances of the set's tracks from a table."""
    taken = clearances.read_table(use.database, set_id, wanted.text, wanted.source)
    return ClearanceTaken.model_validate(taken)


@router.get("/{set_id}/clearance/file", response_class=Response)
def clearance_as_file(use: Use, set_id: int) -> Response:
    """What is known of the set's tracks as a table."""
    name, text = clearances.as_table(use.database.read(), set_id)
    return file_out(NightFile(text), f"{name}, clearance", "csv")


@router.post("/{set_id}/crate", status_code=201)
def make_crate(use: Use, set_id: int) -> CrateOut:
    """Make a crate of the running order."""
    crate_id = sets.to_crate(use.database, set_id)
    return CrateOut.model_validate(crates.get_crate(use.database.read(), crate_id))


@router.get("/{set_id}/file", response_class=Response)
def set_as_file(use: Use, set_id: int, form: Form) -> Response:
    """The set as a file: lines of text, a playlist, a cue sheet or a table."""
    name, made = sets.as_file(use.database.read(), set_id, form)
    return file_out(made, name, form)
