"""A second look at the rhythm of a track or of a stretch of it, with the kind of tempo given."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm import edits
from vinyl.core.rhythm.anchors import splice
from vinyl.core.rhythm.grid import estimate_grid
from vinyl.core.rhythm.onset import onsets
from vinyl.core.rhythm.tempo_map import Kind, TempoMap
from vinyl.core.tonal.chroma import chroma

# A stretch is looked at around the tempo that the grid has there, so that the octave stays.
WINDOW = (0.72, 1.39)

FloatArray = NDArray[np.float32]


def rescan(
    samples: FloatArray, rate_hz: int, kind: Kind, window_bpm: tuple[float, float] | None = None
) -> TempoMap:
    """The tempo map of samples (channels, n), of one kind.

    Raises:
        TempoMapError: if no beat is found, or none of that kind.
    """
    mono = samples.mean(axis=0, dtype=np.float32)
    found = estimate_grid(onsets(mono, rate_hz), chroma(mono, rate_hz), len(mono) / rate_hz, window_bpm, kind)
    if found is None:
        raise TempoMapError("No beat was found there. Type or tap the tempo instead.")
    if found.tempo_map.kind == "steady" != kind:
        raise TempoMapError(
            f"Heard as {kind}, this has one tempo all the same: {found.tempo_map.bpm:.2f} bpm. Nothing was changed."
        )
    return found.tempo_map


def rescan_stretch(
    samples: FloatArray, rate_hz: int, tempo_map: TempoMap, kind: Kind, start_s: float, end_s: float
) -> TempoMap:
    """A map whose beats between two times are heard anew. Holds every beat outside in time.

    Raises:
        TempoMapError: as rescan, or if the stretch is too short.
    """
    bpm = 60.0 * float(tempo_map.beat_at(end_s) - tempo_map.beat_at(start_s)) / max(end_s - start_s, 1e-9)
    part = samples[:, round(start_s * rate_hz) : round(end_s * rate_hz)]
    found = rescan(part, rate_hz, kind, (WINDOW[0] * bpm, WINDOW[1] * bpm))
    return splice(tempo_map, edits.shift(found, start_s), start_s, end_s)
