"""Grid edits: functions TempoMap -> TempoMap, each named by what it does and saying what it holds fixed."""

from __future__ import annotations

from dataclasses import replace

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm.tempo_map import METRES, Anchor, TempoMap, check_bpm, checked_bpm

SAME_S = 1e-6
# What lies less before the start of the audio counts as at it: grids are fitted to a few milliseconds.
WITHIN_S = 0.02


def shift(tempo_map: TempoMap, by_s: float) -> TempoMap:
    """Move the whole grid in time. Holds every tempo and every beat number."""
    moved = tuple(replace(anchor, time_s=anchor.time_s + by_s) for anchor in tempo_map.anchors)
    return replace(tempo_map, anchors=moved)


def bar_starts_here(tempo_map: TempoMap, time_s: float) -> TempoMap:
    """Make the beat nearest to a time a bar start. Holds every beat in time and every tempo; where a bar
    starts there already, all stays as it is.

    Beats are renumbered so that beat 0 is the first downbeat at or after the start of the audio.
    """
    beat = tempo_map.nearest_beat(time_s)
    if beat % tempo_map.beats_per_bar == 0:
        return tempo_map
    first = float(tempo_map.beat_at(-WITHIN_S))
    bars_before = (beat - first) // tempo_map.beats_per_bar
    return _renumber(tempo_map, beat - bars_before * tempo_map.beats_per_bar)


def first_bar_here(tempo_map: TempoMap, time_s: float) -> TempoMap:
    """Make the beat nearest to a time bar 1. Holds every beat in time and every tempo."""
    return _renumber(tempo_map, tempo_map.nearest_beat(time_s))


def move_bar_starts(tempo_map: TempoMap, beats: int) -> TempoMap:
    """Let bars start so many beats later. Holds every beat in time and every tempo."""
    return _renumber(tempo_map, beats)


def move_beat_here(tempo_map: TempoMap, time_s: float) -> TempoMap:
    """Shift the grid so that its nearest beat falls exactly on a time. Holds every tempo."""
    beat = tempo_map.nearest_beat(time_s)
    return shift(tempo_map, time_s - float(tempo_map.time_at(beat)))


def scale_tempo(tempo_map: TempoMap, factor: float) -> TempoMap:
    """Multiply the tempo (2 doubles, 1.5 makes three beats of two). Holds beat 0 in time, and with it every
    beat that is left.
    """
    return replace(tempo_map, anchors=tuple(_scaled(anchor, factor) for anchor in tempo_map.anchors))


def set_tempo(tempo_map: TempoMap, bpm: float, hold_s: float | None = None) -> TempoMap:
    """Give the whole track one tempo. Holds the beat nearest to hold_s in time, or else beat 0; bar 1 is the
    bar line nearest to where it was.
    """
    check_bpm(bpm)
    beat = 0 if hold_s is None else tempo_map.nearest_beat(hold_s)
    held, first = (float(tempo_map.time_at(each)) for each in (beat, 0.0))
    steady = replace(tempo_map, anchors=(Anchor(held - beat * 60.0 / bpm, 0.0, bpm),))
    bar = tempo_map.beats_per_bar
    return _renumber(steady, bar * round(float(steady.beat_at(first)) / bar))


def stretch(tempo_map: TempoMap, hold_s: float, line_s: float, to_s: float) -> TempoMap:
    """Stretch the whole grid so that the beat nearest to one time falls on another. Holds the beat
    nearest to hold_s.

    Raises:
        TempoMapError: if both are the same beat, or the beat would have to pass the held one.
    """
    held, line = (float(tempo_map.time_at(tempo_map.nearest_beat(time_s))) for time_s in (hold_s, line_s))
    if abs(line - held) < SAME_S:
        raise TempoMapError(
            "The line to move is the one that is held: go further into the track, or hold another."
        )
    factor = (to_s - held) / (line - held)
    if factor <= 0:
        raise TempoMapError("A line cannot be moved past the one that is held.")
    moved = tuple(
        Anchor(held + (a.time_s - held) * factor, a.beat, checked_bpm(a.bpm / factor))
        for a in tempo_map.anchors
    )
    return replace(tempo_map, anchors=moved)


def take_map(tempo_map: TempoMap, other: TempoMap) -> TempoMap:
    """Take another track's whole tempo map, shifted. Holds bar 1 in time."""
    return shift(other, float(tempo_map.time_at(0.0)) - float(other.time_at(0.0)))


def tempo_from_here(tempo_map: TempoMap, time_s: float, bpm: float) -> TempoMap:
    """Change the tempo from the beat nearest to a time on. Holds everything before that beat."""
    check_bpm(bpm)
    beat = float(tempo_map.nearest_beat(time_s))
    at_s = float(tempo_map.time_at(beat))
    kept = tuple(anchor for anchor in tempo_map.anchors if anchor.beat < beat)
    if not kept:
        before = float(tempo_map.beat_at(at_s) - tempo_map.beat_at(at_s - 1.0)) * 60.0
        kept = (Anchor(at_s - 60.0 / before, beat - 1.0, before),)
    return replace(tempo_map, anchors=(*kept, Anchor(at_s, beat, bpm)))


def set_metre(tempo_map: TempoMap, beats_per_bar: int) -> TempoMap:
    """Change the beats in a bar. Holds every beat in time and beat 0 as a bar start."""
    if beats_per_bar not in METRES:
        raise TempoMapError(f"A bar can have 3 to 7 beats, not {beats_per_bar}.")
    return replace(tempo_map, beats_per_bar=beats_per_bar)


def _renumber(tempo_map: TempoMap, new_zero: float) -> TempoMap:
    moved = tuple(replace(anchor, beat=anchor.beat - new_zero) for anchor in tempo_map.anchors)
    return replace(tempo_map, anchors=moved)


def _scaled(anchor: Anchor, factor: float) -> Anchor:
    return replace(anchor, beat=anchor.beat * factor, bpm=checked_bpm(anchor.bpm * factor))
