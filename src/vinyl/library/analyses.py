"""Results of analysis, and the queue of tracks that wait for it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass

from vinyl.core.analysis import VERSION, Analysis
from vinyl.core.cues.proposals import CueProposal
from vinyl.core.quality.findings import findings
from vinyl.core.rhythm.grid import GridEstimate
from vinyl.library import flat, values
from vinyl.library.clock import now
from vinyl.library.grids import grid_value
from vinyl.library.queue import PARTS, Part
from vinyl.library.values import Field, Value

NO_BEAT = ("no beat was found",)
# Which results go together when only some are to be replaced; what is not listed goes with any.
PART_OF: Mapping[Field, Part] = {
    "grid": "grid", "tempo": "grid", "structure": "grid", "key": "key", "energy": "energy",
}  # fmt: skip
ANALYSED: tuple[Field, ...] = ("grid", "tempo", "structure", "key", "energy", "quality")


@dataclass(frozen=True, slots=True)
class SectionSpan:
    """A section of a track, in seconds."""

    start_s: float
    end_s: float
    label: str


@dataclass(frozen=True, slots=True)
class StoredStructure:
    """What analysis found of a track's structure: where phrases begin, its sections, and
    proposals for cues."""

    phrase_s: float | None
    sections: list[SectionSpan]
    proposals: list[CueProposal]


@dataclass(frozen=True, slots=True)
class Heard:
    """What analysis heard besides grid, tempo, key and structure; None where it has not been."""

    energy_reason: str
    range_lu: float | None
    true_peak_db: float | None
    second_key: str | None
    second_from_s: float | None
    runner_up_key: str | None
    tuning_cents: float | None


def store(
    connection: sqlite3.Connection, track_id: int, result: Analysis, parts: Sequence[Part] = PARTS
) -> None:
    """Keep a track's results and take it out of the queue. What is locked goes on to win over them.

    Args:
        parts: of a track that was analysed before, what is to be replaced.
    """
    if "loudness" in parts or not _is_analysed(connection, track_id):
        _store_loudness(connection, track_id, result)
    found = {**_values(result), "quality": _quality(connection, track_id, result)}
    wanted = {field: value for field, value in found.items() if PART_OF.get(field, parts[0]) in parts}
    values.put(connection, [track_id], "analysis", wanted)
    connection.execute(
        "INSERT OR REPLACE INTO track_likeness (track_id, descriptor, fingerprint) "
        "SELECT id, ?, ? FROM track WHERE id = ?",
        (result.descriptor.astype("<f4").tobytes(), result.fingerprint.astype("<u4").tobytes(), track_id),
    )
    connection.execute("UPDATE track SET duration_s = ? WHERE id = ?", (result.duration_s, track_id))
    connection.execute("DELETE FROM analysis_queue WHERE track_id = ?", (track_id,))
    flat.settle(connection, [track_id], ["analysis", "facts", *ANALYSED])


def _is_analysed(connection: sqlite3.Connection, track_id: int) -> bool:
    row = connection.execute("SELECT 1 FROM track_analysis WHERE track_id = ?", (track_id,)).fetchone()
    return row is not None


def _store_loudness(connection: sqlite3.Connection, track_id: int, result: Analysis) -> None:
    connection.execute(
        """INSERT OR REPLACE INTO track_analysis (track_id, version, lufs, range_lu, true_peak_db,
             analysed_at)
           SELECT id, ?, ?, ?, ?, ? FROM track WHERE id = ?""",
        (
            VERSION,
            result.loudness.integrated_lufs,
            result.loudness.range_lu,
            result.true_peak_db,
            now(),
            track_id,
        ),
    )


def structure_of(connection: sqlite3.Connection, track_id: int) -> StoredStructure:
    """The structure that holds for a track; empty where there is none."""
    found = values.winner(connection, track_id, "structure")
    stored = json.loads(found.value.text or "{}") if found else {}
    return StoredStructure(
        stored.get("phrase_s"),
        [SectionSpan(**section) for section in stored.get("sections", ())],
        [CueProposal(cue["time"], cue["role"], cue["label"]) for cue in stored.get("cues", ())],
    )


def chapters_of(connection: sqlite3.Connection, track_id: int) -> list[CueProposal]:
    """The marks that a track's file carries, as proposals; only what loops there is a loop here."""
    found = values.winner(connection, track_id, "chapters")
    marks = json.loads(found.value.text or "[]") if found else []
    return [
        CueProposal(
            mark["start_s"],
            None,
            mark["title"] or f"mark {number}",
            mark["end_s"] - mark["start_s"] if mark["loops"] and mark["end_s"] else None,
            exact=True,
        )
        for number, mark in enumerate(marks, 1)
    ]


def heard_of(connection: sqlite3.Connection, track_id: int) -> Heard:
    """What more analysis heard."""
    row = connection.execute(
        "SELECT range_lu, true_peak_db FROM track_analysis WHERE track_id = ?", (track_id,)
    ).fetchone()
    details: dict[str, Mapping[str, object]] = {}
    for value in values.sources_of(connection, track_id, ["key", "energy"]):
        if value.origin == "analysis" and value.field not in details:
            details[value.field] = value.value.detail or {}
    key = details.get("key", {})
    return Heard(
        energy_reason=str(details.get("energy", {}).get("reason") or ""),
        range_lu=row["range_lu"] if row else None,
        true_peak_db=row["true_peak_db"] if row else None,
        second_key=key.get("second"),  # type: ignore[arg-type]
        second_from_s=key.get("second_from_s"),  # type: ignore[arg-type]
        runner_up_key=key.get("runner_up"),  # type: ignore[arg-type]
        tuning_cents=key.get("tuning_cents"),  # type: ignore[arg-type]
    )


def _values(result: Analysis) -> dict[Field, Value | None]:
    key, grid = result.key, result.grid
    return {
        **_grid_values(grid),
        "structure": Value(json.dumps(_structure(result))),
        "key": Value(
            str(key.key) if key.key else None,
            {
                "second": str(key.second) if key.second else None,
                "second_from_s": key.second_from_s,
                "runner_up": str(key.runner_up) if key.runner_up else None,
                "tuning_cents": key.tuning_cents,
            },
            1.0 - key.confidence,
        ),
        "energy": Value(str(result.energy.value), {"reason": result.energy.reason}),
    }


def _quality(connection: sqlite3.Connection, track_id: int, result: Analysis) -> Value:
    """What is wrong with the sound, given what kind of file it stands in."""
    file = connection.execute("SELECT codec, bit_rate FROM track WHERE id = ?", (track_id,)).fetchone()
    found = findings(result.levels, result.edge, file["codec"], file["bit_rate"]) if file else ()
    return Value(json.dumps([asdict(finding) for finding in found]))


def _grid_values(grid: GridEstimate | None) -> dict[Field, Value | None]:
    if grid is None:
        return {"grid": grid_value(None, 1.0, NO_BEAT), "tempo": None}
    return {
        "grid": grid_value(grid.tempo_map, grid.doubt, grid.reasons, grid.other_bpm),
        "tempo": Value(repr(grid.tempo_map.bpm), None, grid.doubt),
    }


def _structure(result: Analysis) -> dict[str, object]:
    sections = [{"start_s": s.start_s, "end_s": s.end_s, "label": s.label} for s in result.structure.sections]
    cues = [{"time": c.time_s, "role": c.role, "label": c.label} for c in result.cues]
    return {"phrase_s": result.structure.phrase_s, "sections": sections, "cues": cues}
