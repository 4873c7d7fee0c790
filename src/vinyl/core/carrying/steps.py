"""The beatgrid of a track as steps of another library, and back."""

from __future__ import annotations

from vinyl.core.carrying.card import Step
from vinyl.core.carrying.collection import Track
from vinyl.core.carrying.grids import thinned, worst_error_s
from vinyl.core.carrying.options import Options
from vinyl.core.carrying.outcomes import Fate, Kind, Outcome
from vinyl.core.carrying.traits import Traits, seconds, units
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap

SAME_S = 0.001
SAME_GRID_S = 1e-4


def carry_grid(
    track: Track, traits: Traits, options: Options
) -> tuple[tuple[Step, ...], bool, list[Outcome]]:
    """The steps of a grid, whether it is not to be found anew, and what became of it."""
    grid = track.grid
    if grid is None:
        return (), False, []
    kind: Kind = f"grid, {grid.kind}"  # type: ignore[assignment]
    here, settled = said_grid(grid), options.settled == "yes"
    end = "" if settled else "it analyses again, and may put its own in its place"
    if not traits.keeps_grid:
        return (), False, [_no_grid(kind, here, grid, traits)]
    if grid.kind == "elastic" and not traits.keeps_elastic:
        return _thinned(track, grid, traits, options, end)
    steps = _steps(grid, track, traits)
    off_s = worst_error_s(grid, grid_of(steps, grid.beats_per_bar, traits, track.padding_s), track.duration_s)
    there = here if off_s <= SAME_GRID_S else f"{here}, {1000 * off_s:.1f} ms off at most"
    fate: Fate = "as it is" if off_s <= SAME_S else "changed"
    return steps, settled, [Outcome(kind, fate, "grid", here, there, end, "settled", 1000 * off_s)]


def _no_grid(kind: Kind, here: str, grid: TempoMap, traits: Traits) -> Outcome:
    if "tempo" in traits.words:
        return Outcome(kind, "changed", "grid", here, f"{grid.bpm:.2f} bpm", "its tempo goes")
    return Outcome(kind, "left here", "grid", here, "", "a playlist has none")


def _thinned(
    track: Track, grid: TempoMap, traits: Traits, options: Options, end: str
) -> tuple[tuple[Step, ...], bool, list[Outcome]]:
    here = said_grid(grid)
    steps = _steps(thinned(grid, options.every_bars), track, traits)
    off_s = worst_error_s(grid, grid_of(steps, grid.beats_per_bar, traits, track.padding_s), track.duration_s)
    off = f"{1000 * off_s:.1f} ms off at most"
    if 1000 * off_s > options.limit_ms and options.limit_ms < 1000:
        why = f"a step each {options.every_bars} bars would be {off}: take more steps, or a wider limit"
        outcome = Outcome("grid, elastic", "left here", "grid", here, "", why, "every_bars", 1000 * off_s)
        return (), False, [outcome]
    why = "; ".join(filter(None, (f"a step each {options.every_bars} bars", end)))
    outcome = Outcome("grid, elastic", "changed", "grid", here, off, why, "every_bars", 1000 * off_s)
    return steps, options.settled == "yes", [outcome]


def _steps(grid: TempoMap, track: Track, traits: Traits) -> tuple[Step, ...]:
    shift = track.padding_s if traits.counts_padding else 0.0
    return tuple(
        Step(units(each.time_s + shift, traits.grid_units_per_second), each.beat, each.bpm)
        for each in grid.anchors
    )


def grid_of(steps: tuple[Step, ...], beats_per_bar: int, traits: Traits, padding_s: float) -> TempoMap:
    """The grid that steps of a library make here.

    Raises:
        TempoMapError: if they are none.
    """
    shift = padding_s if traits.counts_padding else 0.0
    anchors = (
        Anchor(seconds(each.at, traits.grid_units_per_second) - shift, each.beat, each.bpm) for each in steps
    )
    return TempoMap(tuple(anchors), beats_per_bar)


def said_grid(grid: TempoMap) -> str:
    """A grid in a few words."""
    first = grid.anchors[0]
    if grid.kind == "steady":
        return f"{grid.bpm:.3f} bpm from {round(first.time_s, 3) + 0.0:.3f} s"
    return f"{grid.kind}, about {grid.bpm:.1f} bpm, {len(grid.anchors)} anchors"
