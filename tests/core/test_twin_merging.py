"""Times of one file in another, and how grids, cues and routes are joined: known answers and properties."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from vinyl.core.cues.cue import Cue
from vinyl.core.cues.routes import Jump
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap
from vinyl.core.twins.alignment import Alignment, align
from vinyl.core.twins.merging import (
    SAME_CUE_S,
    Way,
    merge_points,
    moved_grid,
    moved_jumps,
    moved_point,
    same_grid,
)
from vinyl.core.twins.proposal import REASONS, Candidate, propose

LENGTH_S = 240.0


def _attacks(seed: int = 1) -> NDArray[np.float64]:
    random = np.random.default_rng(seed)
    raster = np.arange(0.3, LENGTH_S, 0.25) + random.normal(0, 0.0005, 959)
    return np.sort(np.concatenate([raster, random.uniform(0, LENGTH_S, 600)]))


def _as_copied(attacks_s: NDArray[np.float64], line: Alignment) -> NDArray[np.float64]:
    """Attacks as they are found in a copy: a seventh is missed, others come, each is off a little."""
    random = np.random.default_rng(2)
    there = (line.speed * attacks_s + line.offset_s)[random.random(len(attacks_s)) < 0.85]
    found = np.concatenate([there + random.normal(0, 0.0008, len(there)), random.uniform(0, LENGTH_S, 150)])
    return np.sort(found[found > 0])


@pytest.mark.parametrize("speed", [1.0, 1.001, 1 / 1.001, 1.005, 1 / 1.005])
@pytest.mark.parametrize("offset_s", [0.0, -0.4, 0.026, 12.0])
def test_times_in_a_copy_are_known_to_a_millisecond_also_where_it_runs_faster(
    speed: float, offset_s: float
) -> None:
    attacks_s, truth = _attacks(), Alignment(speed, offset_s, 0.0)
    near = Alignment(1.0, truth.there(120.0) - 120.0 + 0.04, 0.0)
    found = align(attacks_s, _as_copied(attacks_s, truth), near)
    assert found is not None and (found.speed == 1.0) is (speed == 1.0)
    for at_s in (1.0, 120.0, 239.0):
        assert found.there(at_s) == pytest.approx(truth.there(at_s), abs=0.001)
        assert found.back.there(found.there(at_s)) == pytest.approx(at_s)
    assert found.then(found.back).there(77.0) == pytest.approx(77.0)


def test_files_whose_attacks_lie_on_no_one_line_have_no_times_in_common() -> None:
    attacks_s, near = _attacks(), Alignment(1.0, 0.0, 0.0)
    assert align(attacks_s, np.sort(np.random.default_rng(5).uniform(0, LENGTH_S, 1400)), near) is None
    half = len(attacks_s) // 2
    torn = np.concatenate([attacks_s[:half], attacks_s[half:] + 0.063])
    assert align(attacks_s, torn, near) is None, "a gap in the middle"
    assert align(np.array([]), attacks_s, near) is None


def test_a_cue_stands_as_near_to_its_attack_as_it_did() -> None:
    here, there = np.array([10.0, 20.0]), np.array([10.4032, 20.3975])
    way = Way(Alignment(1.0, 0.4, 0.0), 100.0, here, there)
    assert [way.time(at) for at in (10.002, 19.999, 15.0)] == pytest.approx([10.4052, 20.3965, 15.4])
    assert replace(way, attacks_here=None).time(10.002) == pytest.approx(10.402)


points = st.builds(
    Cue,
    position_s=st.floats(0, 200),
    length_s=st.none() | st.floats(0.5, 20),
    label=st.sampled_from(["", "drop", "voice"]),
    role=st.none() | st.sampled_from(["in", "main", "out"]),
    pad=st.none() | st.integers(1, 8),
)


def _tidy(drawn: list[Cue], first_id: int) -> list[Cue]:
    """As a track has them: each pad and role once."""
    tidy: list[Cue] = []
    for place, point in enumerate(drawn):
        pad = None if any(each.pad == point.pad for each in tidy) else point.pad
        role = None if any(each.role == point.role for each in tidy) else point.role
        tidy.append(replace(point, pad=pad, role=role, id=first_id + place))
    return tidy


@given(
    st.lists(points, max_size=6),
    st.lists(st.lists(points, max_size=6), max_size=3),
    st.floats(-3, 3),
    st.sampled_from([1.0, 1.002, 0.995]),
)
def test_no_cue_is_lost_or_doubled_and_no_pad_given_twice(
    own: list[Cue], others: list[list[Cue]], offset_s: float, speed: float
) -> None:
    kept = _tidy(own, 1)
    way = Way(Alignment(speed, offset_s, 0.0), 195.0)
    coming = [(_tidy(points, 100), way) for points in others]
    merged = merge_points(kept, coming)
    changed = {point.id: point for point in merged.changed}
    there = [changed.get(point.id, point) for point in kept] + merged.added
    for part in ("pad", "role"):
        taken = [getattr(point, part) for point in there if getattr(point, part) is not None]
        assert len(taken) == len(set(taken)), part
    for point in kept:
        now = changed.get(point.id, point)
        assert (now.position_s, now.length_s) == (point.position_s, point.length_s)
        assert now.pad == point.pad or point.pad is None
    for some, _ in coming:
        for point in some:
            moved = moved_point(point, way)
            if moved is None:
                assert point in merged.lost
                continue
            near = [each for each in there if abs(each.position_s - moved.position_s) <= SAME_CUE_S]
            assert any((each.length_s is None) is (moved.length_s is None) for each in near)
    assert all(0 <= point.position_s <= 195.0 for point in merged.added)


def test_what_two_say_of_one_cue_is_joined() -> None:
    kept = [Cue(10.0, label="", pad=None, id=7), Cue(30.0, role="in", pad=1, id=8)]
    way = Way(Alignment(1.0, -0.5, 0.0), 100.0)
    coming = [Cue(10.505, label="drop", pad=2), Cue(40.5, role="in", pad=1), Cue(0.2)]
    merged = merge_points(kept, [(coming, way)])
    assert merged.changed == [replace(kept[0], label="drop", pad=2)]
    assert merged.added == [Cue(40.0, label="other in")]
    assert merged.lost == [coming[2]] and merged.given_up == ["pad 1", "the in point"]


def test_grids_and_routes_go_over_or_are_refused() -> None:
    grid = TempoMap((Anchor(1.0, 0.0, 124.0), Anchor(1.0 + 64 * 60 / 124, 64.0, 130.0)))
    way = Way(Alignment(1 / 1.001, -0.4, 0.0), 90.0)
    moved = moved_grid(grid, way)
    assert moved.time_at([0, 64, 80]) == pytest.approx(grid.time_at([0, 64, 80]) / 1.001 - 0.4)
    assert moved.anchors[0].bpm == pytest.approx(124.0 * 1.001)
    back = moved_grid(moved, Way(way.alignment.back, 90.0))
    assert same_grid(grid, back, 90.0) and not same_grid(grid, moved, 90.0)
    bars_later = TempoMap(tuple(replace(each, beat=each.beat + 4) for each in grid.anchors))
    beat_later = TempoMap(tuple(replace(each, beat=each.beat + 1) for each in grid.anchors))
    assert same_grid(grid, bars_later, 90.0) and not same_grid(grid, beat_later, 90.0)
    assert moved_jumps([Jump(20.0, 40.0)], way) == (Jump(way.time(20.0), way.time(40.0)),)
    assert moved_jumps([Jump(20.0, 95.0)], way) is None


def _file(track_id: int, **worth: object) -> Candidate:
    usual: dict[str, object] = {"there": True, "lossless": False, "damages": 0, "bit_rate": 320_000}
    return Candidate(track_id, **{**usual, **worth})  # type: ignore[arg-type]


def test_the_first_reason_that_tells_files_apart_decides() -> None:
    flac, work = _file(1, lossless=True), _file(2, work=9, plays=3)
    assert propose([flac, work]) == (1, "the better sound")
    assert propose([flac, work], ("work", *(each for each in REASONS if each != "work")))[0] == 2
    assert propose([replace(flac, damages=1), work])[0] == 2, "lossless, but made of a lossy file"
    assert propose([replace(flac, there=False), work]) == (2, "the only file that is there")
    assert propose([_file(4), _file(3)])[0] == 3 and propose([_file(3, folder=1), _file(4, folder=2)])[0] == 4
