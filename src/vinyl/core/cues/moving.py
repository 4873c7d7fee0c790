"""Cues and loops onto a grid that was changed after they were set."""

from __future__ import annotations

from dataclasses import dataclass

from vinyl.core.rhythm.tempo_map import SnapUnit, TempoMap

# Loops are counted in eighths of a beat at the finest.
FINEST_BEATS = 0.125


@dataclass(frozen=True, slots=True)
class Span:
    """A point in seconds, or a loop where ``length_s`` is given."""

    position_s: float
    length_s: float | None = None


def onto_grid(span: Span, tempo_map: TempoMap, duration_s: float, unit: SnapUnit = "beat") -> Span:
    """The nearest place on the grid within the track; a loop keeps its number of beats, to the nearest eighth
    of one.
    """
    position = tempo_map.snap(span.position_s, unit)
    if not 0.0 <= position <= duration_s:
        position = tempo_map.snap(min(max(span.position_s, 0.0), duration_s), "beat")
        position = min(max(position, 0.0), duration_s)
    if span.length_s is None:
        return Span(position)
    beats = float(tempo_map.beat_at(span.position_s + span.length_s) - tempo_map.beat_at(span.position_s))
    beats = max(round(beats / FINEST_BEATS), 1) * FINEST_BEATS
    end = float(tempo_map.time_at(float(tempo_map.beat_at(position)) + beats))
    return Span(position, end - position) if end <= duration_s + 1e-3 else span
