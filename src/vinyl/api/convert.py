"""From rows and dataclasses to what goes over the wire."""

from __future__ import annotations

import json
import sqlite3
from datetime import UTC, datetime

from vinyl.api import models
from vinyl.core.cues.proposals import CueProposal
from vinyl.core.cues.routes import LEAST_S, length_s, stretches
from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.core.rules.finishing import FinishRules, Preparation, what_is_left
from vinyl.library.cues import Cue
from vinyl.library.grids import Grid
from vinyl.library.imports import ImportRun
from vinyl.library.routes import Route

MARKS = {"in": "I", "main": "M", "out": "O"}


def track_out(row: sqlite3.Row, rules: FinishRules, cues: str = "") -> models.TrackOut:
    fields = {name: row[name] for name in row.keys() if name in models.TrackOut.model_fields}  # noqa: SIM118
    preparation = preparation_of(row)
    fields |= {
        "doubt_reasons": json.loads(row["doubt_reasons"] or "[]"),
        "cues": cues,
        "locks": sorted(preparation.locks),
    }
    return models.TrackOut(**{**fields, "left": what_is_left(preparation, rules)})


def preparation_of(row: sqlite3.Row) -> Preparation:
    """How far a track of the shelf is."""
    by_hand = row["bpm_source"] == "by hand"
    doubt = None if row["bpm"] is None else row["doubt"]
    roles, locked = (frozenset(filter(None, (row[name] or "").split(","))) for name in ("cue_roles", "locks"))
    return Preparation(
        doubt, by_hand, row["key"], row["key_confidence"], row["cue_count"], roles, row["rating"], locked
    )


def heard_out(row: sqlite3.Row) -> models.HeardOut:
    fields = {name: row[name] for name in models.HeardOut.model_fields}
    return models.HeardOut.model_validate(
        {
            **fields,
            "sections": json.loads(row["sections"] or "[]"),
            "energy_reason": row["energy_reason"] or "",
        }
    )


def cue_marks(connection: sqlite3.Connection, track_ids: list[int]) -> dict[int, str]:
    """For each track its cues at a glance: I, M and O for in, main and out, and how many others."""
    marks = ",".join("?" * len(track_ids))
    rows = connection.execute(
        f"SELECT track_id, role FROM cue WHERE track_id IN ({marks}) ORDER BY position_s", track_ids
    )
    roles: dict[int, list[str | None]] = {}
    for row in rows:
        roles.setdefault(row["track_id"], []).append(row["role"])
    return {track_id: _marks(found) for track_id, found in roles.items()}


def _marks(roles: list[str | None]) -> str:
    others = roles.count(None)
    named = [mark for role, mark in MARKS.items() if role in roles]
    if others:
        named.insert(len(named) - ("O" in named), str(others))
    return " ".join(named)


def grid_out(grid: Grid) -> models.GridOut:
    anchors = [models.AnchorOut(**anchor) for anchor in anchors_to(grid.tempo_map)]
    tempo_map = grid.tempo_map
    return models.GridOut(
        anchors=anchors,
        beats_per_bar=tempo_map.beats_per_bar,
        phrase_bars=tempo_map.phrase_bars,
        kind=tempo_map.kind,
        by_hand=grid.by_hand,
    )


def route_out(route: Route, duration_s: float) -> models.RouteOut:
    # A new analysis may find the track a hair shorter than when the route was made: that must not hide the track.
    reach_s = max(
        duration_s, *(jump.from_s for jump in route.jumps), *(jump.to_s + LEAST_S for jump in route.jumps)
    )
    played = stretches(route.jumps, reach_s)
    return models.RouteOut(
        id=route.id,
        name=route.name,
        jumps=[models.JumpBody(from_s=j.from_s, to_s=j.to_s) for j in route.jumps],
        stretches=[models.StretchOut(start_s=s.start_s, end_s=s.end_s) for s in played],
        length_s=length_s(played),
    )


def proposals_out(proposals: list[CueProposal]) -> list[models.ProposalOut]:
    return [models.ProposalOut(position_s=p.time_s, role=p.role, label=p.label) for p in proposals]


def cue_out(cue: Cue) -> models.CueOut:
    return models.CueOut.model_validate(cue)


def import_out(run: ImportRun) -> models.ImportOut:
    done = sum(run.outcomes.values())
    outcomes = {name.replace(" ", "_"): count for name, count in run.outcomes.items()}
    return models.ImportOut(
        id=run.id,
        folder=run.folder,
        state=run.state,
        total=run.total,
        done=done,
        error=run.error,  # type: ignore[arg-type]
        started_at=run.started_at,
        finished_at=run.finished_at,
        seconds_left=_seconds_left(run, done),
        outcomes=models.Outcomes(**outcomes),
    )


def _seconds_left(run: ImportRun, done: int) -> float | None:
    if run.state != "running" or not done or run.total is None:
        return None
    elapsed = (datetime.now(UTC) - datetime.fromisoformat(run.started_at)).total_seconds()
    return elapsed / done * (run.total - done)
