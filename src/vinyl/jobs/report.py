"""One file's analysis in the plain form that ``vinyl analyze --json`` prints."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

from vinyl.core.analysis import Analysis, analyse
from vinyl.core.errors import VinylError
from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.media.decode import decode


def analysis_line(path: str, window_bpm: tuple[float, float] | None = None) -> dict[str, Any]:
    """The results for a file, or ``{"path", "error"}``."""
    began = time.perf_counter()
    try:
        result = analyse(decode(Path(path)).samples, window_bpm)
    except (VinylError, OSError, MemoryError) as error:
        return {"path": path, "error": str(error)}
    return {"path": path, **plain(result), "analysis_seconds": round(time.perf_counter() - began, 3)}


def plain(result: Analysis) -> dict[str, Any]:
    """An analysis as numbers, text and lists; times in seconds."""
    key = result.key
    return {
        "duration": round(result.duration_s, 3),
        **_rhythm(result),
        "key": str(key.key) if key.key else None,
        "key_confidence": round(key.confidence, 3),
        "second_key": str(key.second) if key.second else None,
        "tuning_cents": round(key.tuning_cents, 1),
        "lufs": None if result.lufs is None else round(result.lufs, 2),
        "doubt": {"grid": result.grid.doubt if result.grid else 1.0, "key": round(1 - key.confidence, 3)},
    }


def _rhythm(result: Analysis) -> dict[str, Any]:
    if result.grid is None:
        return {"bpm": None, "tempo": None, "anchors": [], "beats_per_bar": None, "beats": [], "downbeats": []}
    tempo_map = result.grid.tempo_map
    return {
        "bpm": round(tempo_map.bpm, 4),
        "tempo": tempo_map.kind,
        "anchors": anchors_to(tempo_map),
        "beats_per_bar": tempo_map.beats_per_bar,
        "beats": [round(t, 5) for t in tempo_map.beats_between(0.0, result.duration_s).tolist()],
        "downbeats": [round(t, 5) for t in tempo_map.downbeats_between(0.0, result.duration_s).tolist()],
    }
