"""One file's analysis in the plain form that ``vinyl analyze --json`` prints."""

from __future__ import annotations

import logging
import time
from pathlib import Path
from typing import Any

from vinyl.core.analysis import Analysis, analyse_blocks
from vinyl.core.errors import VinylError
from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.core.structure.sections import phrase_starts
from vinyl.media.decode import decode_blocks

log = logging.getLogger("vinyl.analysis")


def analysis_line(path: str, window_bpm: tuple[float, float] | None = None) -> dict[str, Any]:
    """The results for a file, or ``{"path", "error"}``."""
    began = time.perf_counter()
    try:
        result = analyse_blocks(decode_blocks(Path(path)), window_bpm)
    except VinylError as error:
        return {"path": path, "error": str(error)}
    except Exception as error:  # whatever one file does, those after it are heard
        log.debug("%s", path, exc_info=error)
        return {"path": path, "error": f"This file cannot be analysed ({type(error).__name__}: {error})."}
    return {"path": path, **plain(result), "analysis_seconds": round(time.perf_counter() - began, 3)}


def plain(result: Analysis) -> dict[str, Any]:
    """An analysis as numbers, text and lists; times in seconds."""
    key, loudness = result.key, result.loudness
    return {
        "duration": round(result.duration_s, 3),
        **_rhythm(result),
        "key": str(key.key) if key.key else None,
        "key_confidence": round(key.confidence, 3),
        "second_key": str(key.second) if key.second else None,
        "second_key_from": _rounded(key.second_from_s),
        "tuning_cents": round(key.tuning_cents, 1),
        "lufs": _rounded(loudness.integrated_lufs, 2),
        "loudness_range": _rounded(loudness.range_lu, 2),
        "true_peak_db": _rounded(result.true_peak_db, 2),
        "energy": result.energy.value,
        "energy_reason": result.energy.reason,
        "sections": [
            {"start": round(s.start_s, 4), "end": round(s.end_s, 4), "label": s.label}
            for s in result.structure.sections
        ],
        "phrases": [round(t, 4) for t in _phrase_starts(result)],
        "cues": [
            {"time": round(c.time_s, 4), "length": None, "role": c.role, "label": c.label}
            for c in result.cues
        ],
        "doubt": {"grid": result.grid.doubt if result.grid else 1.0, "key": round(1 - key.confidence, 3)},
        "quality": {
            "ends_at_hz": round(result.edge.at_hz) if result.edge else None,
            "clipped": result.levels.clipped,
            "sound_from": _rounded(result.levels.first_s),
            "sound_to": _rounded(result.levels.last_s),
        },
        "other_bpm": _rounded(result.grid.other_bpm) if result.grid else None,
        "doubt_reasons": list(result.grid.reasons) if result.grid else ["no beat was found"],
    }


def _rounded(value: float | None, digits: int = 3) -> float | None:
    return None if value is None else round(value, digits)


def _phrase_starts(result: Analysis) -> list[float]:
    """Starts of 8-bar phrases within the track, in seconds."""
    if result.grid is None or result.structure.phrase_s is None:
        return []
    return phrase_starts(result.grid.tempo_map, result.structure.phrase_s, result.duration_s)


def _rhythm(result: Analysis) -> dict[str, Any]:
    if result.grid is None:
        return {
            "bpm": None,
            "tempo": None,
            "anchors": [],
            "beats_per_bar": None,
            "beats": [],
            "downbeats": [],
        }
    tempo_map = result.grid.tempo_map
    return {
        "bpm": round(tempo_map.bpm, 4),
        "tempo": tempo_map.kind,
        "anchors": anchors_to(tempo_map),
        "beats_per_bar": tempo_map.beats_per_bar,
        "beats": [round(t, 5) for t in tempo_map.beats_between(0.0, result.duration_s).tolist()],
        "downbeats": [round(t, 5) for t in tempo_map.downbeats_between(0.0, result.duration_s).tolist()],
    }
