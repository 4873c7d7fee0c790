"""A second look at the rhythm of a track or of a stretch of it, with the kind of tempo given."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm import edits
from vinyl.core.rhythm.anchors import splice
from vinyl.core.rhythm.grid import estimate_grid
from vinyl.core.rhythm.onset import OnsetMeter
from vinyl.core.rhythm.tempo_map import Kind, TempoMap
from vinyl.core.spectrum import SpectrumMeter
from vinyl.core.tonal.chroma import ChromaMeter

# A stretch is looked at within such ratios of the tempo that the grid has there: under half an octave, so
# that the octave stays.
WINDOW = (0.72, 1.39)

FloatArray = NDArray[np.float32]


def rescan(
    blocks: Iterable[FloatArray], rate_hz: int, kind: Kind, window_bpm: tuple[float, float] | None = None
) -> TempoMap:
    """The tempo map, of one kind, of samples that come in blocks (channels, n) and are not held.

    Raises:
        TempoMapError: if no beat is found, or none of that kind.
    """
    onsets, spectra = OnsetMeter(rate_hz), SpectrumMeter(rate_hz)
    chroma, seen = ChromaMeter(spectra.rate_hz), 0
    for samples in blocks:
        mono = samples.mean(axis=0, dtype=np.float32)
        seen += len(mono)
        onsets.push(mono)
        chroma.push(spectra.push(mono))
    chroma.push(spectra.finish())
    found = estimate_grid(onsets.finish(), chroma.finish(), seen / rate_hz, window_bpm, kind)
    if found is None:
        raise TempoMapError("No beat was found there. Type or tap the tempo instead.")
    if found.tempo_map.kind == "steady" != kind:
        raise TempoMapError(
            f"Heard as {kind}, this has one tempo all the same: "
            f"{found.tempo_map.bpm:.2f} bpm. Nothing was changed."
        )
    return found.tempo_map


def rescan_stretch(
    blocks: Iterable[FloatArray],
    rate_hz: int,
    tempo_map: TempoMap,
    kind: Kind,
    span_s: tuple[float, float],
) -> TempoMap:
    """A map whose beats between two times are heard anew. Holds every beat outside in time.

    Args:
        blocks: the whole track, (channels, n) each.
        span_s: start and end of the stretch in seconds.

    Raises:
        TempoMapError: as rescan, or if the stretch is too short.
    """
    start_s, end_s = span_s
    bpm = 60.0 * float(tempo_map.beat_at(end_s) - tempo_map.beat_at(start_s)) / max(end_s - start_s, 1e-9)
    part = _between(blocks, round(start_s * rate_hz), round(end_s * rate_hz))
    found = rescan(part, rate_hz, kind, (WINDOW[0] * bpm, WINDOW[1] * bpm))
    return splice(tempo_map, edits.shift(found, start_s), start_s, end_s)


def _between(blocks: Iterable[FloatArray], first: int, last: int) -> Iterator[FloatArray]:
    """The samples from one frame to another, block by block; nothing is asked for after the last."""
    at = 0
    for samples in blocks:
        part = samples[:, max(first - at, 0) : max(last - at, 0)]
        if part.shape[1]:
            yield part
        at += samples.shape[1]
        if at >= last:
            return
