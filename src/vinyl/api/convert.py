"""From rows and dataclasses to what goes over the wire."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import asdict

from vinyl.api.models.arrivals import ImportOut, Outcomes
from vinyl.api.models.cues import CueOut, ProposalOut
from vinyl.api.models.events import ChangedEvent, JobEvent, ReloadEvent
from vinyl.api.models.jobs import JobOut
from vinyl.api.models.routes import JumpBody, RouteOut, StretchOut
from vinyl.api.models.tracks import ThereOut, TrackOut
from vinyl.api.models.workbench import AnchorOut, GridOut, HeardOut, SectionOut
from vinyl.core.cues.cue import Cue
from vinyl.core.cues.proposals import CueProposal
from vinyl.core.cues.routes import LEAST_S, length_s, stretches
from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.core.rules.finishing import FinishRules, Preparation, what_is_left
from vinyl.jobs.events import Event, JobMoved
from vinyl.jobs.keeping import ListKeeper
from vinyl.jobs.tag_writing import CHANGE_FILES
from vinyl.library import backings, choices, crates, cues, logbook
from vinyl.library.analyses import Heard, StoredStructure
from vinyl.library.changes import Change
from vinyl.library.grids import Grid
from vinyl.library.imports import Outcome
from vinyl.library.jobs import Job
from vinyl.library.routes import Route

PAUSABLE = frozenset({"analysis", "import", "write", "put back"})
REPEATABLE = frozenset({"analysis", "import", "pack", "tags", "template", "write"})
# Long lists of ids are the server's own affair.
LONGEST_PAYLOAD = 20
MADE = frozenset(
    {"doubt_reasons", "findings", "cues", "locks", "routes", "left", "tags", "lists", "backing", "there"}
)
PLAIN = tuple(name for name in TrackOut.model_fields if name not in MADE)


def tracks_out(
    connection: sqlite3.Connection,
    rows: Sequence[sqlite3.Row],
    keeper: ListKeeper,
    venue_id: int | None = None,
) -> list[TrackOut]:
    """Rows of the flat table as lists show them, with when they were last played at a venue."""
    ids = [row["id"] for row in rows]
    marks, lists = cues.cue_marks(connection, ids), crates.lists_of(connection, ids)
    for track_id, found in keeper.lists_of(ids).items():
        lists.setdefault(track_id, []).extend(found)
    rules, groups = choices.get_finish_rules(connection), backings.names(connection)
    shown = [
        _track_out(each, rules, marks.get(each["id"], ""), lists.get(each["id"], []), groups) for each in rows
    ]
    there = logbook.last_at(connection, venue_id, ids) if venue_id is not None else {}
    for row in shown:
        if row.id in there:
            last_at, times = there[row.id]
            row.there = ThereOut(last_at=last_at, times=times)
    return shown


def _track_out(
    row: sqlite3.Row, rules: FinishRules, marks: str, lists: list[int], groups: dict[int, str]
) -> TrackOut:
    group = groups.get(row["backing_id"])
    preparation = preparation_of(row)
    return TrackOut.model_validate(
        {
            **{name: row[name] for name in PLAIN},
            "doubt_reasons": json.loads(row["doubt_reasons"] or "[]"),
            "findings": json.loads(row["findings"]),
            "cues": marks,
            "locks": sorted(preparation.locks),
            "routes": row["route_count"],
            "left": what_is_left(preparation, rules),
            "tags": [int(tag) for tag in filter(None, row["tags"].split(","))],
            "lists": lists,
            "backing": {"id": row["backing_id"], "name": group} if group else None,
        }
    )


def preparation_of(row: sqlite3.Row) -> Preparation:
    """How far a track of the shelf is."""
    roles, locked = (frozenset(filter(None, row[name].split(","))) for name in ("cue_roles", "locks"))
    return Preparation(
        grid_doubt=None if row["bpm"] is None else row["doubt"],
        grid_by_hand=row["bpm_source"] == "by hand" and not row["replaced"],
        key=row["key"],
        key_confidence=row["key_confidence"],
        cues=row["cue_count"],
        roles=roles,
        stars=row["rating"],
        locks=locked,
    )


def heard_out(heard: Heard, structure: StoredStructure) -> HeardOut:
    sections = [SectionOut.model_validate(section) for section in structure.sections]
    return HeardOut(sections=sections, phrase_s=structure.phrase_s, **asdict(heard))


def grid_out(grid: Grid) -> GridOut:
    tempo_map = grid.tempo_map
    return GridOut(
        anchors=[AnchorOut(**anchor) for anchor in anchors_to(tempo_map)],
        beats_per_bar=tempo_map.beats_per_bar,
        phrase_bars=tempo_map.phrase_bars,
        kind=tempo_map.kind,
        by_hand=grid.by_hand,
    )


def route_out(route: Route, duration_s: float) -> RouteOut:
    # A new analysis may find the track a hair shorter than when the route was made: that must not hide the
    # track.
    reach_s = max(
        duration_s, *(jump.from_s for jump in route.jumps), *(jump.to_s + LEAST_S for jump in route.jumps)
    )
    played = stretches(route.jumps, reach_s)
    return RouteOut(
        id=route.id,
        name=route.name,
        jumps=[JumpBody(from_s=j.from_s, to_s=j.to_s) for j in route.jumps],
        stretches=[StretchOut(start_s=s.start_s, end_s=s.end_s) for s in played],
        length_s=length_s(played),
    )


def proposals_out(proposals: Sequence[CueProposal]) -> list[ProposalOut]:
    return [
        ProposalOut(position_s=p.time_s, role=p.role, label=p.label, length_s=p.length_s, from_file=p.exact)
        for p in proposals
    ]


def cue_out(cue: Cue) -> CueOut:
    return CueOut.model_validate(cue)


def import_out(job: Job, outcomes: dict[Outcome, int]) -> ImportOut:
    return ImportOut(
        id=job.id,
        folder=job.subject,
        state=job.state,
        total=job.total,
        done=sum(outcomes.values()),
        error=job.error,
        started_at=job.made_at,
        finished_at=job.finished_at,
        seconds_left=job.seconds_left,
        outcomes=Outcomes(**{name.replace(" ", "_"): count for name, count in outcomes.items()}),
    )


def job_out(job: Job) -> JobOut:
    return JobOut.model_validate(
        {
            **{name: getattr(job, name) for name in JobOut.model_fields if hasattr(job, name)},
            "payload": {name: value for name, value in job.payload.items() if _is_short(value)},
            "can_pause": job.kind in PAUSABLE,
            "can_put_back": job.kind in CHANGE_FILES and _has_written(job),
            "can_retry": job.kind in REPEATABLE and job.finished_at is not None and _wants_retry(job),
        }
    )


def event_out(event: Event) -> ChangedEvent | JobEvent | ReloadEvent:
    match event:
        case Change(revision, topics, track_ids, background):
            ids = None if track_ids is None else list(track_ids)
            return ChangedEvent(revision=revision, topics=list(topics), track_ids=ids, background=background)
        case JobMoved(job):
            return JobEvent(job=job_out(job))
    return ReloadEvent()


def _is_short(value: object) -> bool:
    return not isinstance(value, list) or len(value) <= LONGEST_PAYLOAD


def _has_written(job: Job) -> bool:
    result = job.result or {}
    return bool(result.get("written")) and not result.get("put_back")


def _wants_retry(job: Job) -> bool:
    return job.failures > 0 or job.state in ("failed", "cancelled")
