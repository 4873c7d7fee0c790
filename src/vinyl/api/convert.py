"""From rows and dataclasses to what goes over the wire."""

from __future__ import annotations

import json
import sqlite3
from datetime import UTC, datetime

from vinyl.api import models
from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.library.cues import Cue
from vinyl.library.grids import Grid
from vinyl.library.imports import ImportRun

MARKS = {"in": "I", "main": "M", "out": "O"}


def track_out(row: sqlite3.Row, cues: str = "") -> models.TrackOut:
    fields = {name: row[name] for name in row.keys() if name in models.TrackOut.model_fields}  # noqa: SIM118
    return models.TrackOut(**{**fields, "doubt_reasons": json.loads(row["doubt_reasons"] or "[]"), "cues": cues})


def heard_out(row: sqlite3.Row) -> models.HeardOut:
    fields = {name: row[name] for name in models.HeardOut.model_fields}
    return models.HeardOut.model_validate(
        {**fields, "sections": json.loads(row["sections"] or "[]"), "energy_reason": row["energy_reason"] or ""}
    )


def cue_marks(connection: sqlite3.Connection, track_ids: list[int]) -> dict[int, str]:
    """For each track its cues at a glance: I, M and O for in, main and out, and how many others."""
    marks = ",".join("?" * len(track_ids))
    rows = connection.execute(f"SELECT track_id, role FROM cue WHERE track_id IN ({marks}) ORDER BY position_s", track_ids)
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


def cue_out(cue: Cue) -> models.CueOut:
    return models.CueOut.model_validate(cue)


def import_out(run: ImportRun) -> models.ImportOut:
    done = sum(run.outcomes.values())
    outcomes = {name.replace(" ", "_"): count for name, count in run.outcomes.items()}
    return models.ImportOut(
        id=run.id, folder=run.folder, state=run.state, total=run.total, done=done, error=run.error,  # type: ignore[arg-type]
        started_at=run.started_at, finished_at=run.finished_at, seconds_left=_seconds_left(run, done), outcomes=models.Outcomes(**outcomes),
    )  # fmt: skip


def _seconds_left(run: ImportRun, done: int) -> float | None:
    if run.state != "running" or not done or run.total is None:
        return None
    elapsed = (datetime.now(UTC) - datetime.fromisoformat(run.started_at)).total_seconds()
    return elapsed / done * (run.total - done)
