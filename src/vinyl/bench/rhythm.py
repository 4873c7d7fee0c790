"""Tempo, beats, bar starts, the course of tempo and sections against what is known of the pieces."""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any

import mir_eval
import numpy as np
from numpy.typing import NDArray

from vinyl.bench.material import Rhythmic, Samples
from vinyl.core.analysis import analyse

FloatArray = NDArray[np.float64]
OCTAVES = (1.0, 2.0, 0.5, 3.0, 1 / 3)
FAR_S = 0.07
DOUBTS = (0.0, 0.05, 0.1, 0.2, 0.4, 0.6, 1.01)


@dataclass(slots=True)
class Tracked:
    """What a tracker said of a piece. Empty where it does not speak of that."""

    bpm: float
    beats_s: FloatArray
    downbeats_s: FloatArray | None = None
    tempo: str | None = None
    sections_s: list[float] = field(default_factory=list)
    doubt: float | None = None


Tracker = Callable[[Samples], Tracked]


def ours(samples: Samples) -> Tracked:
    """Vinyl's own analysis."""
    result = analyse(samples)
    if result.grid is None:
        return Tracked(0.0, np.zeros(0), np.zeros(0), "none", doubt=1.0)
    tempo_map = result.grid.tempo_map
    return Tracked(
        tempo_map.bpm,
        tempo_map.beats_between(0.0, result.duration_s),
        tempo_map.downbeats_between(0.0, result.duration_s),
        tempo_map.kind,
        [section.start_s for section in result.structure.sections],
        result.grid.doubt,
    )


def measure_rhythm(pieces: Iterable[Rhythmic], trackers: Mapping[str, Tracker]) -> dict[str, Any]:
    """Figures by tracker and kind of piece, and for all of the development set."""
    rows: dict[tuple[str, str], list[dict[str, Any]]] = defaultdict(list)
    for piece in pieces:
        for name, tracker in trackers.items():
            began = time.perf_counter()
            tracked = tracker(piece.samples)
            seconds = time.perf_counter() - began
            row = {**_compare(piece, tracked), "seconds": seconds, "duration": piece.samples.shape[1] / 44100}
            rows[name, piece.kind].append(row)
            if not piece.kind.startswith(("fresh", "natural")):
                rows[name, "development set"].append(row)
            rows[name, "all"].append(row)
    return {name: {kind: _summary(rows[n, kind]) for n, kind in rows if n == name} for name in trackers}


def _compare(piece: Rhythmic, tracked: Tracked) -> dict[str, Any]:
    reference, found = piece.beats_s, tracked.beats_s
    nearest = (
        found[np.abs(reference[:, None] - found[None, :]).argmin(axis=1)]
        if len(found)
        else np.full(len(reference), np.inf)
    )
    errors = nearest - reference
    near = errors[np.abs(errors) < FAR_S]
    beat_bpm = 60.0 / float(np.median(np.diff(found))) if len(found) > 2 else 0.0
    ratio = beat_bpm / piece.bpm
    return {
        "constant": piece.tempo == "steady",
        "within_4": abs(ratio - 1) < 0.04,
        "octave": any(abs(ratio * factor - 1) < 0.04 for factor in OCTAVES),
        "exact": abs(tracked.bpm - piece.bpm) <= 0.05,
        "f": _f_measure(reference, found),
        "right": float((np.abs(errors) < 0.02).mean()) >= 0.95,
        "offset": float(np.median(near)) * 1000 if len(near) else None,
        "downbeat_f": None
        if piece.downbeats_s is None or tracked.downbeats_s is None
        else _f_measure(piece.downbeats_s, tracked.downbeats_s),
        "course": (piece.tempo, tracked.tempo),
        "sections": _section_f(piece, tracked),
        "doubt": tracked.doubt,
    }


def _by_doubt(rows: list[dict[str, Any]]) -> dict[str, str]:
    """How many grids are right of those with so much doubt."""
    told = [(row["doubt"], row["right"]) for row in rows if row["doubt"] is not None]
    found = {}
    for low, high in pairwise(DOUBTS):
        right = [each for doubt, each in told if low <= doubt < high]
        if right:
            found[f"{low:g} to {min(high, 1.0):g}"] = f"{sum(right)} of {len(right)}"
    return found


def _f_measure(reference: FloatArray, found: FloatArray) -> float:
    trimmed = [mir_eval.beat.trim_beats(beats) for beats in (reference, found)]
    return float(mir_eval.beat.f_measure(*trimmed)) if all(len(beats) for beats in trimmed) else 0.0


def _section_f(piece: Rhythmic, tracked: Tracked) -> float | None:
    if not piece.sections or piece.downbeats_s is None or tracked.tempo is None:
        return None
    bar_s = float(np.median(np.diff(piece.downbeats_s)))
    reference, found = np.array([start for start, _ in piece.sections[1:]]), np.array(tracked.sections_s[1:])
    if not len(found):
        return 0.0
    matched = len(mir_eval.util.match_events(reference, found, 1.02 * bar_s))
    return 2 * matched / (len(reference) + len(found))


def _summary(rows: list[dict[str, Any]]) -> dict[str, Any]:
    constant = [row for row in rows if row["constant"]]
    others = [row for row in rows if not row["constant"]]
    offsets = [row["offset"] for row in rows if row["offset"] is not None]
    return {
        "pieces": len(rows),
        "tempo within 4%": _mean(rows, "within_4"),
        "within 4% or an octave": _mean(rows, "octave"),
        "constant within 0.05 bpm": _mean(constant, "exact"),
        "beat F": _mean(rows, "f"),
        "grid right, constant": _mean(constant, "right"),
        "grid right, others": _mean(others, "right"),
        "median |offset| ms": round(float(np.median(np.abs(offsets))), 1) if offsets else None,
        "offset bias ms": round(float(np.median(offsets)), 1) if offsets else None,
        "downbeat F": _mean(rows, "downbeat_f"),
        "course right": _share([row["course"][0] == row["course"][1] for row in rows if row["course"][1]]),
        "courses": _confusion(rows),
        "section F": _mean(rows, "sections"),
        "right where doubt < 0.1": _share(
            [row["right"] for row in rows if row["doubt"] is not None and row["doubt"] < 0.1]
        ),
        "right by doubt": _by_doubt(rows),
        "doubt < 0.1": _share([row["doubt"] < 0.1 for row in rows if row["doubt"] is not None]),
        "times real time": round(
            sum(row["duration"] for row in rows) / max(sum(row["seconds"] for row in rows), 1e-9)
        ),
    }


def _mean(rows: list[dict[str, Any]], name: str) -> float | None:
    values = [float(row[name]) for row in rows if row[name] is not None]
    return round(float(np.mean(values)), 3) if values else None


def _share(values: list[bool]) -> float | None:
    return round(float(np.mean(values)), 3) if values else None


def _confusion(rows: list[dict[str, Any]]) -> dict[str, int]:
    counts: dict[str, int] = defaultdict(int)
    for truth, found in (row["course"] for row in rows):
        if found:
            counts[f"{truth} as {found}"] += 1
    return dict(counts)
