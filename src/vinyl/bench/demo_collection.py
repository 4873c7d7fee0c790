"""The demo collection, analysed from its files on one core."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Any

import numpy as np

from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from
from vinyl.core.tonal.key import parse_key
from vinyl.jobs.report import analysis_line

TEMPO_BPM = 0.05
BEAT_S = 0.015


def measure_demo(demo: Path) -> dict[str, Any]:
    """Analyse every whole track of a demo collection and compare with its truth."""
    truths = json.loads((demo / "truth.json").read_text())
    began = time.perf_counter()
    lines = [analysis_line(str(demo / "music" / truth["path"])) for truth in truths]
    seconds = time.perf_counter() - began
    steady = [(t, line) for t, line in zip(truths, lines, strict=True) if t["kind"] == "steady"]
    right = [_grid_right(truth, line) for truth, line in steady]
    keys = [
        parse_key(t["key"]) == parse_key(line["key"]) if line["key"] else False
        for t, line in zip(truths, lines, strict=True)
    ]
    return {
        "tracks": len(truths),
        "steady tracks": len(steady),
        "tempo within 0.05 bpm": _share([abs(line["bpm"] - t["bpm"]) <= TEMPO_BPM for t, line in steady]),
        "grid right (tempo, every beat within 15 ms)": _share(right),
        "downbeats right": _share([_bars_right(truth, line) for truth, line in steady]),
        "key exact": _share(keys),
        "steady, stepped or elastic right": _share(
            [line["tempo"] == t["kind"] for t, line in zip(truths, lines, strict=True)]
        ),
        "times real time, decode included": round(sum(t["duration_s"] for t in truths) / seconds, 1),
    }


def _grid_right(truth: dict[str, Any], line: dict[str, Any]) -> bool:
    if abs(line["bpm"] - truth["bpm"]) > TEMPO_BPM:
        return False
    beats, found = np.array(truth["beats"]), _map_of(line)
    nearest = found.time_at(np.rint(found.beat_at(beats)))
    return bool(np.abs(nearest - beats).max() <= BEAT_S)


def _bars_right(truth: dict[str, Any], line: dict[str, Any]) -> bool:
    if line["beats_per_bar"] != truth["beats_per_bar"]:
        return False
    beat = float(_map_of(line).beat_at(truth["anchors"][0]["time"]))
    return bool(abs(beat - round(beat / line["beats_per_bar"]) * line["beats_per_bar"]) < 0.1)


def _map_of(line: dict[str, Any]) -> TempoMap:
    return TempoMap(anchors_from(line["anchors"]), line["beats_per_bar"])


def _share(values: list[bool]) -> str:
    return f"{sum(values)} of {len(values)} ({sum(values) / max(len(values), 1):.0%})"
