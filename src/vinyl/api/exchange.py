"""Exchange, the way there: destinations, the ledger, one track first, writing, and reports."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query

from vinyl.api.convert import job_out
from vinyl.api.exchange_out import finding_out, ledger_out, report_out, without_in_point
from vinyl.api.models.exchange import (
    AnswerOut,
    ChoiceOut,
    DestinationIn,
    DestinationOut,
    DocumentIn,
    Fate,
    LaidCue,
    LedgerOut,
    OrderBody,
    PathPair,
    ReportLine,
    ReportOut,
    RestoreIn,
    SaidOut,
    SaidPage,
    TargetOut,
    TriedOut,
)
from vinyl.api.models.jobs import JobOut
from vinyl.api.services import Use
from vinyl.core.carrying.collection import Cue, Track
from vinyl.core.carrying.options import Options, choices_for, options_to
from vinyl.core.carrying.outcomes import Outcome
from vinyl.core.carrying.paths import beginnings
from vinyl.core.carrying.traits import TARGETS, Traits
from vinyl.core.foreign_paths import PathMapping
from vinyl.exchange.desk import list_said
from vinyl.exchange.libraries.opening import NAMES
from vinyl.exchange.order import Order, order_of
from vinyl.exchange.trying import Tried, try_one
from vinyl.jobs.carrying import CARRY
from vinyl.library import destinations, jobs, tracks
from vinyl.library.carrying import read_tracks
from vinyl.library.destinations import Destination
from vinyl.library.errors import NotFoundError
from vinyl.library.jobs import Job
from vinyl.operations import exchange
from vinyl.operations.services import Services

router = APIRouter(prefix="/api/exchange", tags=["exchange"])

MOST_REPORTS = 40
TOLD = ("tracks", "lists", "off_ms", "states", "later", "mapped", "problems")
MOST_FINDINGS = 200
# Bars that are drawn for one track.
MOST_BARS = 2000


def order_from(body: OrderBody) -> Order:
    """The order of a request.

    Raises:
        OptionError: for choices that there are not.
    """
    return order_of(body.model_dump())


@router.get("/targets")
def list_targets() -> list[TargetOut]:
    """The libraries that things can be carried to, with what can be chosen about each."""
    return [_target_out(traits) for traits in TARGETS.values()]


def _target_out(traits: Traits) -> TargetOut:
    usual = options_to(Options())
    return TargetOut(
        name=traits.name,  # type: ignore[arg-type]
        label=traits.label,
        says=traits.says,
        file_name=NAMES.get(traits.name, ""),
        in_files=traits.name == "tidewrack",
        choices=[
            ChoiceOut(
                name=choice.name,
                kind=choice.kind,
                why=choice.why,
                answers=[AnswerOut(value=value, words=words) for value, words in choice.answers.items()],
                usual=str(usual[choice.name]),
            )
            for choice in choices_for(traits)
        ],
    )


@router.get("/destinations")
def list_destinations(use: Use) -> list[DestinationOut]:
    """The ways to other libraries that are kept, the one that was used last first."""
    return [_destination_out(each) for each in destinations.list_destinations(use.database.read())]


@router.post("/destinations", status_code=201)
def make_destination(use: Use, wanted: DestinationIn) -> DestinationOut:
    """Keep a way under a name."""
    return _save(use, wanted, None)


@router.put("/destinations/{destination_id}")
def change_destination(use: Use, destination_id: int, wanted: DestinationIn) -> DestinationOut:
    """Change a way that is kept."""
    return _save(use, wanted, destination_id)


def _save(use: Services, wanted: DestinationIn, destination_id: int | None) -> DestinationOut:
    order_from(wanted.order)
    told = wanted.order.model_dump(exclude={"destination_id", "tracks", "source"})
    saved = exchange.save_destination(use.database, wanted.name, wanted.order.target, told, destination_id)
    return _destination_out(saved)


@router.delete("/destinations/{destination_id}", status_code=204)
def delete_destination(use: Use, destination_id: int) -> None:
    """Forget a way; what lies there stays."""
    exchange.delete_destination(use.database, destination_id)


def _destination_out(each: Destination) -> DestinationOut:
    order = OrderBody.model_validate({**each.told, "destination_id": each.id})
    return DestinationOut(
        id=each.id, name=each.name, target=order.target, order=order, carried_at=each.carried_at,
        tracks=each.tracks,
    )  # fmt: skip


@router.post("/ledgers", status_code=201)
def make_ledger(use: Use, order: OrderBody) -> JobOut:
    """Begin to make the ledger of an order. Nothing is written."""
    return job_out(use.carrier.weigh(order_from(order)))


@router.get("/ledgers/{job_id}")
def get_ledger(use: Use, job_id: int) -> LedgerOut:
    """A ledger that is made."""
    return ledger_out(use, job_id)


@router.get("/ledgers/{job_id}/without-in-point")
def list_without_in_point(use: Use, job_id: int) -> list[int]:
    """The tracks of a ledger that have no in point."""
    return without_in_point(use, job_id)


@router.get("/ledgers/{job_id}/rows")
def list_ledger_rows(
    use: Use,
    job_id: int,
    kind: Annotated[str, Query(max_length=40)],
    fate: Fate | None = None,
    words: Annotated[str, Query(max_length=200)] = "",
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> SaidPage:
    """What becomes of each value of a kind that does not stay as it is."""
    count, rows = list_said(use.carrier.desk_of(job_id), kind, fate, words, offset, limit)
    return SaidPage(count=count, rows=[_said_out(each.track, each.outcome) for each in rows])


def _said_out(track: str, outcome: Outcome) -> SaidOut:
    return SaidOut(
        track=track, kind=outcome.kind, fate=outcome.fate, what=outcome.what, here=outcome.here,
        there=outcome.there, why=outcome.why, option=outcome.option,
    )  # fmt: skip


@router.post("/tracks/{track_id}/try")
def try_track(use: Use, track_id: int, order: OrderBody) -> TriedOut:
    """Write one track to a place aside, read it back, and lay both sides over each other."""
    found = read_tracks(use.database.read(), [track_id])
    if not found:
        raise NotFoundError(f"Track {track_id} is not in the library (any more).")
    return _tried_out(track_id, try_one(found[0], order_from(order)), TARGETS[order.target])


def _tried_out(track_id: int, tried: Tried, traits: Traits) -> TriedOut:
    ours, theirs = tried.ours, tried.theirs
    off = [_apart_ms(cue, theirs) for cue in ours.cues]
    return TriedOut(
        track_id=track_id,
        title=ours.values.get("title", ""),
        artist=ours.values.get("artist", ""),
        duration_s=ours.duration_s,
        padding_ms=1000 * ours.padding_s,
        counts_padding=traits.counts_padding,
        ours=[_laid(cue, apart is not None) for cue, apart in zip(ours.cues, off, strict=True)],
        theirs=[_laid(cue, True, traits) for cue in theirs.cues],
        our_bars=_bars(ours),
        their_bars=_bars(theirs),
        worst_ms=max([apart for apart in off if apart is not None], default=0.0),
        rows=[_said_out("", outcome) for outcome in tried.outcomes],
        values=tried.values,
        findings=[finding_out(each) for each in tried.findings],
    )


def _apart_ms(cue: Cue, theirs: Track) -> float | None:
    """How far a cue stands from itself on the other side; None if it is not there."""
    apart = [
        1000 * abs(cue.position_s - each.position_s) for each in theirs.cues if each.is_loop == cue.is_loop
    ]
    nearest = min(apart, default=None)
    return nearest if nearest is not None and nearest <= 1.0 else None


def _laid(cue: Cue, stays: bool, traits: Traits | None = None) -> LaidCue:
    mark = (
        {"in": "▸", "out": "◂"}.get(cue.role or "") or str(cue.pad or "") or {"main": "M"}.get(cue.role or "")
    )
    there_apart = traits is not None and traits.loop_places is not None and cue.is_loop
    mark = "∞" if there_apart else mark or ("∞" if cue.is_loop else "•")
    return LaidCue(
        position_s=cue.position_s, length_s=cue.length_s, mark=mark,
        name=" ".join(filter(None, (cue.role, cue.label))), stays=stays,
    )  # fmt: skip


def _bars(track: Track) -> list[float]:
    if track.grid is None:
        return []
    return [float(at) for at in track.grid.downbeats_between(0.0, track.duration_s)[:MOST_BARS]]


@router.post("/carryings", status_code=201)
def start_carrying(use: Use, order: OrderBody) -> JobOut:
    """Write what an order says, read it back and compare, in the background."""
    return job_out(use.carrier.carry(order_from(order)))


@router.get("/carryings")
def list_carryings(use: Use) -> list[ReportLine]:
    """What was written, the last first."""
    found = jobs.list_jobs(use.database.read(), (CARRY,), MOST_REPORTS)
    return [_line_out(use.runner.get(job.id)) for job in found]


def _line_out(job: Job) -> ReportLine:
    result = job.result or {}
    return ReportLine(
        job_id=job.id, subject=job.subject, state=job.state, error=job.error, failures=job.failures,
        tracks=result.get("tracks", 0), values=result.get("values", 0), equal=result.get("equal", 0),
        at=job.finished_at or job.made_at,
    )  # fmt: skip


@router.get("/carryings/{job_id}")
def get_report(use: Use, job_id: int, offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0) -> ReportOut:
    """What was written, read back and compared."""
    return report_out(use, job_id, offset)


@router.get("/beginnings")
def list_beginnings(use: Use) -> list[PathPair]:
    """Folders of the collection that whole trees of tracks begin with, as they may be put for others."""
    return [PathPair(here=path, there="") for path in beginnings(tracks.folders(use.database.read()))]


@router.post("/documents", status_code=201)
def write_document(use: Use, wanted: DocumentIn) -> JobOut:
    """Begin to write Vinyl's own document."""
    return job_out(use.documents.write(Path(wanted.place), wanted.lists))


@router.post("/restores", status_code=201)
def restore_document(use: Use, wanted: RestoreIn) -> JobOut:
    """Begin to make the library, which must be empty, what a document says."""
    mappings = [PathMapping(each.there, each.here) for each in wanted.mappings]
    return job_out(use.documents.restore(Path(wanted.place), mappings))
