"""What of a track a player can hold: its cues in the places there are, its grid in the tempi it knows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from vinyl.core.carrying.collection import Cue
from vinyl.core.cues.bounds import ROLES
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.tonal.key import parse_key
from vinyl.sticks.profiles import Profile

# Beats that lie no further from where they belong are heard as right.
HEARD_RIGHT_S = 0.010
# Tempi of the beginning that are tried for a player that knows only one.
MOST_TRIED = 64


@dataclass(frozen=True, slots=True)
class Fitted:
    """What a player gets of a track, and in words what not. ``places`` are those of its cues among all."""

    cues: tuple[Cue, ...]
    places: tuple[int, ...]
    grid: TempoMap | None
    key: str
    losses: tuple[str, ...]


def fit(profile: Profile, cues: Sequence[Cue], grid: TempoMap | None, key: str, duration_s: float) -> Fitted:
    """Fit a track into what a player holds."""
    places = fit_cues(profile, cues)
    kept = tuple(_with_pad(profile, cues[at]) for at in places)
    losses = []
    if len(kept) < len(cues):
        losses.append(
            f"{len(cues) - len(kept)} of {len(cues)} cues stay here: it has {profile.places} places"
        )
    if not profile.engages and any(cue.engages for cue in kept):
        kept = tuple(replace(cue, engages=False) for cue in kept)
        losses.append("its loops do not engage by themselves")
    there, until_s = fit_grid(profile, grid, duration_s)
    if until_s is not None:
        losses.append(f"it knows no {'tempo steps' if grid and grid.kind == 'stepped' else 'elastic grids'}: "
                      f"its grid fits the first {clock(until_s)} only")  # fmt: skip
    return Fitted(kept, places, there, fit_key(profile, key), tuple(losses))


def fit_cues(profile: Profile, cues: Sequence[Cue]) -> tuple[int, ...]:
    """Which cues find a place: those with a role first, then those on pads, then by time."""

    def rank(at: int) -> tuple[bool, bool, int, float]:
        cue = cues[at]
        return cue.role not in ROLES, cue.pad is None, cue.pad or 0, cue.position_s

    return tuple(sorted(sorted(range(len(cues)), key=rank)[: profile.places]))


def _with_pad(profile: Profile, cue: Cue) -> Cue:
    return cue if cue.pad is None or cue.pad <= profile.places else replace(cue, pad=None)


def fit_grid(
    profile: Profile, grid: TempoMap | None, duration_s: float
) -> tuple[TempoMap | None, float | None]:
    """A grid that a player knows, and until when it fits; None where it fits to the end."""
    if grid is None or profile.grids == "elastic" or grid.kind == "steady":
        return grid, None
    if profile.grids == "stepped" and grid.kind == "stepped":
        return grid, None
    first = grid.anchors[0]
    tried = [
        (first.beat - each.beat) / (first.time_s - each.time_s) * 60.0 for each in grid.anchors[1:MOST_TRIED]
    ]
    steady = [replace(grid, anchors=(replace(first, bpm=bpm),)) for bpm in tried]
    fits = [(_fits_until(grid, there, duration_s), there) for there in steady]
    until_s, there = max(fits, key=lambda each: each[0])
    return there, None if until_s >= duration_s else until_s


def _fits_until(grid: TempoMap, there: TempoMap, duration_s: float) -> float:
    beats = np.arange(grid.anchors[0].beat, float(np.floor(grid.beat_at(duration_s))) + 1)
    times = grid.time_at(beats)
    off = np.flatnonzero(np.abs(times - there.time_at(beats)) > HEARD_RIGHT_S)
    return float(times[off[0]]) if off.size else duration_s


def fit_key(profile: Profile, key: str) -> str:
    """A key in the player's notation."""
    try:
        return parse_key(key).written(profile.keys) if key else ""
    except ValueError:
        return key


def clock(time_s: float) -> str:
    """Minutes and seconds."""
    return f"{int(time_s) // 60}:{int(time_s) % 60:02d}"
