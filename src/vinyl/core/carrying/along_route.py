"""What is known of a track, as it stands along one of its routes that became a file of its own."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from vinyl.core.carrying.collection import Cue
from vinyl.core.cues.routes import Stretch
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap

# Joints no further from the beat than this keep the grid as it is.
ON_BEAT = 0.01


def cues_along(cues: Sequence[Cue], played: Sequence[Stretch]) -> list[tuple[int, Cue]]:
    """Cues at each place where a route passes them, in order of time, with their numbers among all. A loop
    that a joint would cut is left out.
    """
    found, offset_s = list[tuple[int, Cue]](), 0.0
    for stretch in played:
        for number, cue in enumerate(cues):
            ends_s = cue.position_s + (cue.length_s or 0.0)
            if stretch.start_s <= cue.position_s < stretch.end_s and ends_s <= stretch.end_s + 1e-6:
                found.append((number, replace(cue, position_s=cue.position_s - stretch.start_s + offset_s)))
        offset_s += stretch.end_s - stretch.start_s
    seen = dict[tuple[str | None, int | None], int]()
    # A role or a pad is given once: where the route first comes by.
    return [
        (number, cue if seen.setdefault((cue.role, cue.pad), at) == at else replace(cue, role=None, pad=None))
        for at, (number, cue) in enumerate(sorted(found, key=lambda each: each[1].position_s))
    ]


def grid_along(grid: TempoMap, played: Sequence[Stretch]) -> TempoMap:
    """The grid of a route: steady where the track's is and all joints fall on the beat; else pinned at both
    sides of each joint.
    """
    anchors, offset_s, shift, on_beat = list[Anchor](), 0.0, 0, True
    for number, stretch in enumerate(played):
        if number:
            left = float(grid.beat_at(played[number - 1].end_s)) + shift
            comes = float(grid.beat_at(stretch.start_s))
            shift = round(left - comes)
            on_beat = on_beat and abs(left - comes - shift) <= ON_BEAT
        for anchor in _within(grid, stretch):
            time_s = anchor.time_s - stretch.start_s + offset_s
            beat = anchor.beat + shift
            if not anchors or (time_s > anchors[-1].time_s and beat > anchors[-1].beat):
                anchors.append(Anchor(time_s, beat, anchor.bpm))
        offset_s += stretch.end_s - stretch.start_s
    if (grid.kind == "steady" and on_beat) or not anchors:
        return grid
    return TempoMap(tuple(anchors), grid.beats_per_bar)


def _within(grid: TempoMap, stretch: Stretch) -> list[Anchor]:
    """The grid's anchors in a stretch, and its first and last whole beats there."""
    starts, ends = (float(grid.beat_at(at)) for at in (stretch.start_s, stretch.end_s))
    first, last = math.ceil(starts - 1e-6), math.ceil(ends - 1e-6) - 1
    held = [anchor for anchor in grid.anchors if stretch.start_s <= anchor.time_s < stretch.end_s]
    pinned = [_pinned(grid, beat) for beat in sorted({first, last}) if first <= beat <= last]
    beats = {round(anchor.beat, 6) for anchor in held}
    return sorted(
        [*held, *(each for each in pinned if round(each.beat, 6) not in beats)], key=lambda each: each.time_s
    )


def _pinned(grid: TempoMap, beat: int) -> Anchor:
    time_s, after_s = (float(grid.time_at(each)) for each in (beat, beat + 1))
    return Anchor(time_s, float(beat), 60.0 / (after_s - time_s))
