"""The tempo in small steps, as it is found by ear: TempoMap -> TempoMap, saying what is held fixed."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from vinyl.core.rhythm.anchors import part_bpm, set_part_tempo
from vinyl.core.rhythm.edits import tempo_from_here
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap, check_bpm, checked_bpm

TempoReach = Literal["whole track", "from here", "this part"]


def step_tempo(tempo_map: TempoMap, by_bpm: float, reach: TempoReach, time_s: float) -> TempoMap:
    """Make the tempo so much higher or lower. Holds bar 1 for the whole track, with every relation of tempi;
    everything before the nearest beat from there on; everything before a part of it, and every later tempo.

    Raises:
        TempoMapError: if a tempo would be outside its limits.
    """
    if reach == "this part":
        return set_part_tempo(tempo_map, time_s, part_bpm(tempo_map, time_s) + by_bpm)
    if reach == "from here":
        beat = tempo_map.nearest_beat(time_s)
        return tempo_from_here(tempo_map, time_s, _bpm_from(tempo_map, beat) + by_bpm)
    return _whole(tempo_map, by_bpm)


def _whole(tempo_map: TempoMap, by_bpm: float) -> TempoMap:
    held_s, bpm = float(tempo_map.time_at(0.0)), _bpm_from(tempo_map, 0.0)
    check_bpm(bpm + by_bpm)
    longer = bpm / (bpm + by_bpm)
    moved = tuple(
        Anchor(held_s + (anchor.time_s - held_s) * longer, anchor.beat, checked_bpm(anchor.bpm / longer))
        for anchor in tempo_map.anchors
    )
    return replace(tempo_map, anchors=moved)


def _bpm_from(tempo_map: TempoMap, beat: float) -> float:
    """The tempo of the beat that begins there."""
    return 60.0 / float(tempo_map.time_at(beat + 1.0) - tempo_map.time_at(beat))
