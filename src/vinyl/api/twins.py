"""Twins: groups of files with one recording, what would be carried over, settling; versions of a work."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from vinyl.api.convert import cue_out, job_out
from vinyl.api.models.jobs import JobOut
from vinyl.api.models.twins import (
    CarriedOut,
    DifferenceOut,
    GroupIn,
    LaterIn,
    OrderOut,
    SettleIn,
    SettlementIn,
    SureIn,
    SureOut,
    SureSample,
    TwinCopy,
    TwinCopyIn,
    TwinGroupOut,
    TwinLine,
    TwinsOut,
    TwinTrack,
    VersionOut,
    VersionsIn,
)
from vinyl.api.services import Use
from vinyl.jobs.twin_settling import Settlement
from vinyl.library import cues, twin_carrying, twin_facts, twin_pairs, works
from vinyl.library.twin_facts import Order
from vinyl.operations import twins
from vinyl.operations.services import Services
from vinyl.operations.twins import Line, Member

router = APIRouter(prefix="/api", tags=["twins"])


@router.get("/twins")
def list_twins(use: Use) -> TwinsOut:
    """All groups, the sure ones first."""
    read = use.database.read()
    lines = [_line(line) for line in twins.list_lines(read)]
    return TwinsOut(groups=lines, unseen=len(twin_pairs.unseen(read)))


def _line(line: Line) -> TwinLine:
    group = line.group
    return TwinLine(
        track_ids=list(group.track_ids),
        kind=group.kind,
        title=line.title,
        artist=line.artist,
        files=line.files,
        bytes=line.bytes,
        words=line.words,
        later=group.later,
    )


@router.post("/twins/group")
def get_group(use: Use, wanted: GroupIn) -> TwinGroupOut | None:
    """One group with all by which its files are compared; null if it is not there any more."""
    line = twins.find_line(use.database.read(), wanted.track_ids)
    if line is None:
        return None
    copies = [
        TwinCopy(track_id=track_id, path=path, size_bytes=size) for track_id, path, size in line.group.copies
    ]
    return TwinGroupOut(
        track_ids=list(line.group.track_ids),
        kind=line.group.kind,
        words=line.words,
        later=line.group.later,
        tracks=[_track(use, member) for member in twins.members(use, line)],
        copies=copies,
        kept_id=line.kept_id,
        reason=line.reason,
    )


def _track(use: Services, member: Member) -> TwinTrack:
    line, points = member.alignment, cues.list_cues(use.database.read(), member.file.track_id)
    told = asdict(member.file) | {"codec": twins.codec_name(member.file.codec)}
    return TwinTrack(
        **told,
        points=[cue_out(cue) for cue in points],
        speed=line.speed if line else None,
        offset_s=line.offset_s if line else None,
        likeness=member.likeness,
        relation=member.relation,  # type: ignore[arg-type]
    )


@router.post("/twins/look")
def look_what_goes_over(use: Use, wanted: SettlementIn) -> CarriedOut | None:
    """What would be carried over to the file that is kept; nothing is changed. Null if one of these is not on
    the Shelf any more.
    """
    found = twins.look(use, _settlement(wanted))
    if found is None:
        return None
    plan, seal = found
    differs = [DifferenceOut.model_validate(each) for each in plan.differs]
    return CarriedOut(carried=twin_carrying.said(plan), differs=differs, lost=plan.lost, seal=seal)


def _settlement(wanted: SettlementIn) -> Settlement:
    return Settlement(wanted.kept_id, tuple(wanted.copy_ids), tuple(wanted.copies), wanted.choices)


@router.post("/twins/settle", status_code=204)
def settle(use: Use, wanted: SettleIn) -> None:
    """Carry over what was seen, and take the copies off the Shelf."""
    twins.settle(use, _settlement(wanted), wanted.aside, wanted.seal)


@router.get("/twins/sure")
def look_at_sure(use: Use) -> SureOut:
    """What settling all sure groups comes to; nothing is changed."""
    found = twins.look_at_sure(use)
    samples = [SureSample(title=title, carried=carried) for title, carried in found.samples]
    return SureOut(**{**asdict(found), "samples": samples})


@router.post("/twins/sure")
def settle_sure(use: Use, wanted: SureIn) -> JobOut:
    """Begin to settle all sure groups, as one step."""
    return job_out(twins.settle_sure(use, wanted.aside))


@router.post("/twins/not", status_code=204)
def say_no_twins(use: Use, wanted: GroupIn) -> None:
    """Remember that tracks are no twins of each other."""
    twins.say_no_twins(use, wanted.track_ids)


@router.post("/twins/use-copy", status_code=204)
def use_copy(use: Use, wanted: TwinCopyIn) -> None:
    """Have a noted copy be the track's file; the file it had becomes the copy."""
    twins.use_copy(use, wanted.track_id, wanted.path)


@router.post("/twins/later", status_code=204)
def mark_later(use: Use, wanted: LaterIn) -> None:
    """Mark a group to be looked at once more, or not."""
    twins.mark_later(use, wanted.track_ids, wanted.later)


@router.post("/twins/search", status_code=204)
def search_again(use: Use) -> None:
    """Look at all tracks for twins once more, in the background."""
    twins.search_again(use)


@router.get("/twins/order")
def get_order(use: Use) -> OrderOut:
    """By which reasons a file is proposed to be kept."""
    return OrderOut.model_validate(asdict(twin_facts.get_order(use.database.read())))


@router.put("/twins/order", status_code=204)
def set_order(use: Use, wanted: OrderOut) -> None:
    """Change them."""
    twins.set_order(use, Order(tuple(wanted.reasons), tuple(wanted.folders)))


@router.get("/tracks/{track_id}/versions")
def list_versions(use: Use, track_id: int) -> list[VersionOut]:
    """The versions of a track's work, it among them; none if it belongs to no work."""
    read = use.database.read()
    found = {each.track_id: each for each in works.versions_of(read, track_id)}
    return [
        VersionOut(
            track_id=file.track_id,
            title=file.title,
            artist=file.artist,
            duration_s=file.duration_s,
            work=found[file.track_id].work,
            kind=found[file.track_id].kind,
        )
        for file in twin_facts.list_files(read, list(found))
    ]


@router.put("/versions", status_code=204)
def link_versions(use: Use, wanted: VersionsIn) -> None:
    """Make tracks versions of one work."""
    twins.link_versions(use, wanted.track_ids, wanted.name, wanted.kinds)


@router.post("/versions/apart", status_code=204)
def unlink_versions(use: Use, wanted: GroupIn) -> None:
    """Take tracks out of their works."""
    twins.unlink_versions(use, wanted.track_ids)
