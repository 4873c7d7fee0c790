"""A stick's plan as it is shown."""

from __future__ import annotations

import json
import sqlite3

from vinyl.api.models.sticks import LeaveOutOut, PlannedFileOut, PlanOut, ProblemOut, ProposalsOut
from vinyl.library.waveforms import WaveformStore
from vinyl.sticks.plan import Plan, make_plan
from vinyl.sticks.proposals import propose
from vinyl.sticks.store import Stick


def plan_out(connection: sqlite3.Connection, stick: Stick, waveforms: WaveformStore) -> PlanOut:
    """What packing would write, keep and remove.

    Raises:
        StickGoneError: if the stick is not in the computer.
    """
    plan = make_plan(connection, stick, waveforms)
    return PlanOut(
        files=_files(connection, plan),
        lists=[each.name for each in plan.players[0].entry.lists],
        tracks=len({file.track_id for file in plan.files}),
        removed=[own.path for own in plan.removed],
        damaged=list(plan.damaged),
        problems=[ProblemOut.model_validate(each, from_attributes=True) for each in plan.problems],
        proposals=_proposals(connection, plan) if plan.missing_bytes else None,
        write_bytes=plan.write_bytes,
        removed_bytes=plan.removed_bytes,
        free_bytes=plan.free_bytes,
        capacity_bytes=plan.capacity_bytes,
        missing_bytes=plan.missing_bytes,
        seconds=plan.write_bytes / plan.rate if plan.rate else None,
        is_empty=plan.is_empty,
    )


def _files(connection: sqlite3.Connection, plan: Plan) -> list[PlannedFileOut]:
    ids = sorted({file.track_id for file in plan.files})
    rows = connection.execute(
        "SELECT s.id, s.title, s.artist FROM json_each(?) i JOIN shelf s ON s.id = i.value",
        (json.dumps(ids),),
    )
    named = {row["id"]: (row["title"], row["artist"]) for row in rows}
    changes: dict[str, dict[str, None]] = {}
    for player in plan.players:
        for track in player.entry.tracks:
            changes.setdefault(track.file, {}).update(dict.fromkeys(player.changes.get(track.id, ())))
    return [
        PlannedFileOut(
            track_id=file.track_id,
            file=file.entry.file,
            title=named[file.track_id][0],
            artist=named[file.track_id][1],
            action=file.action,
            form=file.making.form,
            changes=list(changes.get(file.entry.file, ())),
            size_bytes=file.size_bytes,
        )
        for file in plan.files
    ]


def _proposals(connection: sqlite3.Connection, plan: Plan) -> ProposalsOut:
    ids = json.dumps(sorted({file.track_id for file in plan.files}))
    rows = connection.execute(
        "SELECT s.id, s.title, s.plays, coalesce(s.last_played, '') AS last FROM json_each(?) i "
        "JOIN shelf s ON s.id = i.value",
        (ids,),
    )
    said = {row["id"]: row for row in rows}
    found = propose(plan, {i: (row["plays"], row["last"]) for i, row in said.items()})
    leave_out = [
        LeaveOutOut(id=i, title=said[i]["title"], plays=said[i]["plays"])
        for i in found.leave_out
        if i in said
    ]
    return ProposalsOut(leave_out=leave_out, smaller_saves=found.smaller_saves, lists=list(found.lists))
