"""Where a cue or a loop comes to lie when it is set or moved: snapping, loop lengths in beats, colours that
are usual.
"""

from __future__ import annotations

from dataclasses import dataclass

from vinyl.core.errors import VinylError
from vinyl.core.rhythm.tempo_map import SnapUnit, TempoMap

ROLE_COLOURS = {"in": "violet", "main": "vermilion", "out": "ink"}
PAD_COLOURS = ("vermilion", "blue", "ink", "ochre", "green", "violet")


class PlacingError(VinylError):
    """A place that is counted in beats on a track without a grid."""


@dataclass(frozen=True, slots=True)
class Move:
    """How a cue is to move: to a time in seconds that snaps, then by beats, then by milliseconds."""

    to_s: float | None = None
    snap: SnapUnit = "beat"
    by_beats: float | None = None
    by_ms: float | None = None


def snapped(tempo_map: TempoMap | None, time_s: float, snap: SnapUnit, duration_s: float) -> float:
    """The snapped time, kept within the track; without a grid nothing snaps."""
    if tempo_map is None:
        return time_s
    place_s = tempo_map.snap(time_s, snap)
    return place_s if 0 <= place_s <= duration_s else time_s


def loop_length_s(tempo_map: TempoMap | None, start_s: float, beats: float | None) -> float | None:
    """The length in seconds of a loop of so many beats; None for a point.

    Raises:
        PlacingError: without a grid.
    """
    if beats is None:
        return None
    if tempo_map is None:
        raise PlacingError(
            "A loop's length is counted in beats, and this track has no beatgrid yet. Type its tempo first."
        )
    start = float(tempo_map.beat_at(start_s))
    return float(tempo_map.time_at(start + beats)) - start_s


def moved(tempo_map: TempoMap | None, time_s: float, move: Move, duration_s: float) -> float:
    """Where a cue at a time goes.

    Raises:
        PlacingError: by beats without a grid.
    """
    if move.to_s is not None:
        time_s = snapped(tempo_map, move.to_s, move.snap, duration_s)
    if move.by_beats is not None:
        if tempo_map is None:
            raise PlacingError(
                "A cue moves by beats, and this track has no beatgrid yet. Type its tempo first."
            )
        time_s = float(tempo_map.time_at(tempo_map.beat_at(time_s) + move.by_beats))
    return time_s + (move.by_ms or 0.0) / 1000.0


def length_after_move_s(
    tempo_map: TempoMap | None, start_s: float, length_s: float | None, new_start_s: float
) -> float | None:
    """A loop's length after it was moved: it keeps its number of beats; without a grid, its seconds."""
    if tempo_map is None or length_s is None or new_start_s == start_s:
        return length_s
    beats = float(tempo_map.beat_at(start_s + length_s) - tempo_map.beat_at(start_s))
    return loop_length_s(tempo_map, new_start_s, beats)


def usual_colour(role: str | None, pad: int | None) -> str:
    """The colour of a cue for which none was chosen."""
    if role:
        return ROLE_COLOURS[role]
    return PAD_COLOURS[((pad or 1) - 1) % len(PAD_COLOURS)]
