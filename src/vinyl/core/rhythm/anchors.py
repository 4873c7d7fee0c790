"""Edits of single anchors and of stretches: functions TempoMap -> TempoMap, each saying
what it holds fixed."""

from __future__ import annotations

from dataclasses import replace

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap, check_bpm

NEAR_BEATS = 1e-6
# Between two joined maps no beat is shorter or longer than this share of a beat.
LEAST_GAP_BEATS = 0.5


def add_anchor(tempo_map: TempoMap, time_s: float) -> TempoMap:
    """Pin the beat nearest to a time where it is, so that the parts on both sides can be changed apart. Holds
    every beat.
    """
    return _pinned(tempo_map, tempo_map.nearest_beat(time_s))


def move_anchor(tempo_map: TempoMap, time_s: float, to_s: float) -> TempoMap:
    """Move the anchor nearest to a time. Holds its neighbours, and everything beyond them.

    After the last anchor and before the first their own tempi go on, so what lies there moves along.

    Raises:
        TempoMapError: if it would pass a neighbour, or the tempo beside it would leave its limits.
    """
    place = nearest_anchor(tempo_map, time_s)
    anchors = list(tempo_map.anchors)
    for other in (place - 1, place + 1):
        if 0 <= other < len(anchors) and (anchors[other].time_s - to_s) * (other - place) <= 0:
            raise TempoMapError(
                f"An anchor cannot be moved past its neighbour at {anchors[other].time_s:.2f} s."
            )
    anchors[place] = replace(anchors[place], time_s=to_s)
    return replace(tempo_map, anchors=tuple(anchors))


def pin_beat(tempo_map: TempoMap, time_s: float, to_s: float) -> TempoMap:
    """Make the beat nearest to a time an anchor and move it. Holds the neighbouring anchors and
    everything beyond them.

    Raises:
        TempoMapError: as move_anchor.
    """
    beat = tempo_map.nearest_beat(time_s)
    return move_anchor(_pinned(tempo_map, beat), float(tempo_map.time_at(beat)), to_s)


def delete_anchor(tempo_map: TempoMap, time_s: float) -> TempoMap:
    """Take the anchor nearest to a time away. Holds its neighbours; at either end the next tempo goes on.

    Raises:
        TempoMapError: for the only anchor.
    """
    if len(tempo_map.anchors) == 1:
        raise TempoMapError("This is the grid's only anchor: a beatgrid needs one.")
    place = nearest_anchor(tempo_map, time_s)
    left = [anchor for i, anchor in enumerate(tempo_map.anchors) if i != place]
    if place == 0:
        left[0] = replace(left[0], bpm=_bpm_after(tempo_map, 1) if len(left) > 1 else left[0].bpm)
    elif place == len(left):
        left[-1] = replace(left[-1], bpm=_bpm_after(tempo_map, place - 1))
    return replace(tempo_map, anchors=tuple(left))


def join_anchors(tempo_map: TempoMap, start_s: float, end_s: float) -> TempoMap:
    """Give the stretch between two times one tempo. Holds the beats nearest to both, and everything outside.

    Raises:
        TempoMapError: if there is not a whole beat between them.
    """
    first, last = (tempo_map.nearest_beat(time_s) for time_s in sorted((start_s, end_s)))
    if last <= first:
        raise TempoMapError("Mark a stretch of at least a beat to join its anchors.")
    pinned = _pinned(_pinned(tempo_map, first), last)
    kept = [a for a in pinned.anchors if a.beat <= first + NEAR_BEATS or a.beat >= last - NEAR_BEATS]
    return replace(tempo_map, anchors=tuple(kept))


def set_part_tempo(tempo_map: TempoMap, time_s: float, bpm: float) -> TempoMap:
    """Change the tempo of the part between two anchors. Holds everything before it, and every later tempo.

    Raises:
        TempoMapError: if the tempo is outside its limits.
    """
    check_bpm(bpm)
    anchors, place = tempo_map.anchors, _part_at(tempo_map, time_s)
    if place == len(anchors) - 1:
        return replace(tempo_map, anchors=(*anchors[:place], replace(anchors[place], bpm=bpm)))
    start, end = anchors[place], anchors[place + 1]
    later_s = start.time_s + (end.beat - start.beat) * 60.0 / bpm - end.time_s
    moved = tuple(replace(anchor, time_s=anchor.time_s + later_s) for anchor in anchors[place + 1 :])
    # Before the first anchor its own tempo goes on: that is held too.
    own = start if place == 0 else replace(start, bpm=bpm)
    return replace(tempo_map, anchors=(*anchors[:place], own, *moved))


def part_bpm(tempo_map: TempoMap, time_s: float) -> float:
    """The tempo of the part between two anchors, or after the last."""
    place = _part_at(tempo_map, time_s)
    start, *after = tempo_map.anchors[place : place + 2]
    return 60.0 * (after[0].beat - start.beat) / (after[0].time_s - start.time_s) if after else start.bpm


def _part_at(tempo_map: TempoMap, time_s: float) -> int:
    """The place of the anchor that a part begins with."""
    return max((i for i, anchor in enumerate(tempo_map.anchors) if anchor.time_s <= time_s), default=0)


def splice(tempo_map: TempoMap, part: TempoMap, start_s: float, end_s: float) -> TempoMap:
    """Take the beats between two times from another map. Holds every beat outside in time; those after
    may get other numbers.

    Raises:
        TempoMapError: if the stretch is shorter than two beats, or the maps cannot be joined within the
            limits of tempo.
    """
    first, last = (tempo_map.nearest_beat(time_s) for time_s in (start_s, end_s))
    if last - first < 2:
        raise TempoMapError("Mark a stretch of at least two beats.")
    from_s, to_s = float(tempo_map.time_at(first)), float(tempo_map.time_at(last))
    outside = _pinned(_pinned(tempo_map, first), last).anchors
    before = [a for a in outside if a.beat <= first + NEAR_BEATS]
    after = [a for a in outside if a.beat >= last - NEAR_BEATS]
    offset = first - part.nearest_beat(from_s)
    end = part.nearest_beat(to_s) + offset
    # Counted in beats, for the tempo may be another at each end.
    low, high = float(part.beat_at(from_s)) + LEAST_GAP_BEATS, float(part.beat_at(to_s)) - LEAST_GAP_BEATS
    inside = [
        Anchor(a.time_s, a.beat + offset, a.bpm)
        for a in _pinned_around(part, from_s, to_s)
        if low < a.beat < high
    ]
    return replace(
        tempo_map, anchors=(*before, *inside, *(replace(a, beat=a.beat - last + end) for a in after))
    )


def nearest_anchor(tempo_map: TempoMap, time_s: float) -> int:
    """The place in the map's anchors of the one nearest to a time."""
    anchors = tempo_map.anchors
    return min(range(len(anchors)), key=lambda i: abs(anchors[i].time_s - time_s))


def _pinned(tempo_map: TempoMap, beat: int) -> TempoMap:
    """The same map with an anchor on a beat, if there was none."""
    anchors = tempo_map.anchors
    if any(abs(anchor.beat - beat) < NEAR_BEATS for anchor in anchors):
        return tempo_map
    place = sum(anchor.beat < beat for anchor in anchors)
    time_s = float(tempo_map.time_at(beat))
    bpm = (
        anchors[0].bpm
        if place == 0
        else anchors[-1].bpm
        if place == len(anchors)
        else _bpm_after(tempo_map, place - 1)
    )
    return replace(tempo_map, anchors=(*anchors[:place], Anchor(time_s, float(beat), bpm), *anchors[place:]))


def _pinned_around(part: TempoMap, from_s: float, to_s: float) -> tuple[Anchor, ...]:
    """The anchors of a map, with one a beat within each end of a stretch, so that its tempi
    hold up to there."""
    inner = _pinned(part, part.nearest_beat(from_s) + 1)
    return _pinned(inner, part.nearest_beat(to_s) - 1).anchors


def _bpm_after(tempo_map: TempoMap, place: int) -> float:
    """The tempo between an anchor and the next."""
    a, b = tempo_map.anchors[place : place + 2]
    return (b.beat - a.beat) / (b.time_s - a.time_s) * 60.0
