"""Every edit of a grid on random maps: what it says it holds fixed stays to the microsecond, and no invariant
breaks.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import get_args

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from tests.core.test_tempo_map import MICROSECOND, tempo_maps
from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm import anchors, edits
from vinyl.core.rhythm.break_ends import to_other_end
from vinyl.core.rhythm.onset_times import OnsetTimes
from vinyl.core.rhythm.stepping import TempoReach, step_tempo
from vinyl.core.rhythm.tapping import tapped_tempo
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap

BEATS = np.arange(-16, 320)
times_in = st.floats(0, 300)

EDITS: dict[str, Callable[[TempoMap, float, float, int], TempoMap]] = {
    "shift": lambda m, a, b, n: edits.shift(m, a - b),
    "bar starts here": lambda m, a, b, n: edits.bar_starts_here(m, a),
    "first bar here": lambda m, a, b, n: edits.first_bar_here(m, a),
    "move bar starts": lambda m, a, b, n: edits.move_bar_starts(m, n),
    "move beat here": lambda m, a, b, n: edits.move_beat_here(m, a),
    "scale": lambda m, a, b, n: edits.scale_tempo(m, (0.5, 2 / 3, 1.5, 2.0)[n % 4]),
    "set tempo": lambda m, a, b, n: edits.set_tempo(m, 20 + b, a),
    "tempo from here": lambda m, a, b, n: edits.tempo_from_here(m, a, 20 + b),
    "stretch": lambda m, a, b, n: edits.stretch(m, a, b, b + (n - 3) / 7),
    "metre": lambda m, a, b, n: edits.set_metre(m, n),
    "take map": lambda m, a, b, n: edits.take_map(m, TempoMap.steady(60 + b, a)),
    "add anchor": lambda m, a, b, n: anchors.add_anchor(m, a),
    "move anchor": lambda m, a, b, n: anchors.move_anchor(m, a, b),
    "pin beat": lambda m, a, b, n: anchors.pin_beat(m, a, a + (n - 3) / 20),
    "delete anchor": lambda m, a, b, n: anchors.delete_anchor(m, a),
    "join anchors": lambda m, a, b, n: anchors.join_anchors(m, a, b),
    "part tempo": lambda m, a, b, n: anchors.set_part_tempo(m, a, 20 + b),
    "step tempo": lambda m, a, b, n: step_tempo(m, (b - 150) / 20, get_args(TempoReach)[n % 3], a),
    "splice": lambda m, a, b, n: anchors.splice(m, TempoMap.steady(60 + 15 * n, 0.3), a, b),
}


@pytest.mark.parametrize("name", EDITS)
@given(tempo_maps(), times_in, times_in, st.integers(1, 9))
def test_an_edit_gives_a_sound_map_or_refuses_in_words(
    name: str, tempo_map: TempoMap, a: float, b: float, n: int
) -> None:
    try:
        changed = EDITS[name](tempo_map, a, b, n)
    except TempoMapError as refused:
        assert len(str(refused)) > 20
        return
    assert TempoMap(changed.anchors, changed.beats_per_bar, changed.phrase_bars) == changed
    assert np.all(np.diff(changed.time_at(BEATS)) >= 60 / 300 - MICROSECOND)


@given(tempo_maps(), st.floats(30, 300), times_in)
def test_a_tempo_for_the_whole_track_leaves_bar_1_where_it_was_as_near_as_can_be(
    tempo_map: TempoMap, bpm: float, hold_s: float
) -> None:
    changed, bar = edits.set_tempo(tempo_map, bpm, hold_s), tempo_map.beats_per_bar
    moved_s = float(changed.time_at(0) - tempo_map.time_at(0))
    assert abs(moved_s) <= bar * 60 / bpm / 2 + MICROSECOND
    held = tempo_map.nearest_beat(hold_s)
    beat = float(changed.beat_at(tempo_map.time_at(held)))
    assert abs(beat - round(beat)) < 1e-3, "the held beat is a beat still"
    assert round(beat) % bar == held % bar, "and of its bar the same"


def _assert_held(before: TempoMap, after: TempoMap, beats: np.ndarray) -> None:
    assert np.allclose(after.time_at(beats), before.time_at(beats), rtol=0, atol=MICROSECOND)


@given(tempo_maps(), times_in, st.sampled_from([-0.5, -0.01, 0.01, 0.1]))
def test_a_step_of_tempo_holds_what_it_says_and_can_be_taken_back(
    tempo_map: TempoMap, time_s: float, by_bpm: float
) -> None:
    beat = tempo_map.nearest_beat(time_s)
    part = max((i for i, anchor in enumerate(tempo_map.anchors) if anchor.time_s <= time_s), default=0)
    held = {
        "whole track": BEATS[BEATS == 0],
        "from here": BEATS[beat >= BEATS],
        "this part": BEATS[tempo_map.anchors[part].beat >= BEATS] if part else BEATS[:0],
    }
    for reach in get_args(TempoReach):
        try:
            changed = step_tempo(tempo_map, by_bpm, reach, time_s)
        except TempoMapError:
            continue
        if reach != "from here" or tempo_map.anchors[0].beat < beat:
            _assert_held(tempo_map, changed, held[reach])
        back = step_tempo(changed, -by_bpm, reach, time_s)
        if reach != "from here":
            assert np.allclose(back.time_at(BEATS), tempo_map.time_at(BEATS), rtol=0, atol=1e-5)


@given(tempo_maps(), times_in)
def test_an_added_anchor_moves_nothing_and_can_be_deleted_again(tempo_map: TempoMap, time_s: float) -> None:
    added = anchors.add_anchor(tempo_map, time_s)
    _assert_held(tempo_map, added, BEATS)
    assume(len(added.anchors) > len(tempo_map.anchors))
    place = anchors.nearest_anchor(added, float(tempo_map.time_at(tempo_map.nearest_beat(time_s))))
    inner = 0 < place < len(added.anchors) - 1
    deleted = anchors.delete_anchor(added, added.anchors[place].time_s)
    _assert_held(
        tempo_map, deleted, BEATS if inner or len(tempo_map.anchors) == 1 else BEATS[(BEATS >= 0)][:1]
    )


@given(tempo_maps(), times_in, st.floats(-0.08, 0.08))
def test_a_pinned_beat_moves_alone_between_its_neighbours(
    tempo_map: TempoMap, time_s: float, by_s: float
) -> None:
    beat = tempo_map.nearest_beat(time_s)
    to_s = float(tempo_map.time_at(beat)) + by_s
    try:
        pinned = anchors.pin_beat(tempo_map, time_s, to_s)
    except TempoMapError:
        return
    assert float(pinned.time_at(beat)) == pytest.approx(to_s, abs=MICROSECOND)
    own = [anchor.beat for anchor in tempo_map.anchors]
    before = max((b for b in own if b < beat - 1e-6), default=None)
    after = min((b for b in own if b > beat + 1e-6), default=None)
    if before is not None:
        _assert_held(tempo_map, pinned, BEATS[before >= BEATS])
    if after is not None:
        _assert_held(tempo_map, pinned, BEATS[after <= BEATS])


@given(tempo_maps(), times_in, times_in)
@example(
    TempoMap(
        (Anchor(-1.0, 0.0, 132.0), Anchor(0.36363636363636354, 3.0, 65.0), Anchor(2.20979, 5.0, 65.0)), 3
    ),
    0.0,
    1.0,
)
def test_joining_and_splicing_hold_everything_outside(
    tempo_map: TempoMap, one_s: float, other_s: float
) -> None:
    first, last = sorted((tempo_map.nearest_beat(one_s), tempo_map.nearest_beat(other_s)))
    assume(last - first >= 2)
    joined = anchors.join_anchors(tempo_map, one_s, other_s)
    _assert_held(tempo_map, joined, BEATS[(first >= BEATS) | (last <= BEATS)])
    assert np.allclose(np.diff(joined.time_at(np.arange(first, last + 1)), 2), 0, atol=MICROSECOND), (
        "one tempo between"
    )
    part = edits.shift(tempo_map, 0.004)
    spliced = anchors.splice(tempo_map, part, *sorted((one_s, other_s)))
    _assert_held(tempo_map, spliced, BEATS[(first >= BEATS) | (last <= BEATS)])
    inside = np.arange(first + 1, last)
    assert np.allclose(spliced.time_at(inside), part.time_at(inside), atol=0.005)


@given(tempo_maps(), times_in, st.floats(40, 200))
def test_a_part_gets_its_tempo_and_holds_what_comes_before(
    tempo_map: TempoMap, time_s: float, bpm: float
) -> None:
    assume(time_s > tempo_map.anchors[0].time_s and len(tempo_map.anchors) > 1)
    changed = anchors.set_part_tempo(tempo_map, time_s, bpm)
    start = max(a.beat for a in tempo_map.anchors if a.time_s <= time_s)
    _assert_held(tempo_map, changed, BEATS[start >= BEATS])
    assert float(changed.time_at(start + 1) - changed.time_at(start)) == pytest.approx(
        60 / bpm, abs=MICROSECOND
    )
    later = [a.beat for a in tempo_map.anchors if a.time_s > time_s]
    if later:
        beats = BEATS[later[0] <= BEATS]
        assert np.allclose(
            np.diff(changed.time_at(beats)), np.diff(tempo_map.time_at(beats)), rtol=0, atol=MICROSECOND
        ), "later tempi"


@given(tempo_maps(), times_in, times_in, st.floats(-0.2, 0.2))
def test_stretching_holds_one_beat_and_moves_the_other(
    tempo_map: TempoMap, hold_s: float, line_s: float, by_s: float
) -> None:
    held, line = tempo_map.nearest_beat(hold_s), tempo_map.nearest_beat(line_s)
    assume(abs(held - line) > 8)
    to_s = float(tempo_map.time_at(line)) + by_s
    stretched = edits.stretch(tempo_map, hold_s, line_s, to_s)
    _assert_held(tempo_map, stretched, np.array([held]))
    assert float(stretched.time_at(line)) == pytest.approx(to_s, abs=MICROSECOND)


@given(tempo_maps(), st.floats(-5, 5), st.integers(-9, 9))
def test_bar_starts_move_over_beats_that_stay_and_a_taken_map_keeps_bar_one(
    tempo_map: TempoMap, by_s: float, beats: int
) -> None:
    moved = edits.move_bar_starts(tempo_map, beats)
    assert np.allclose(moved.time_at(BEATS), tempo_map.time_at(BEATS + beats), rtol=0, atol=MICROSECOND)
    other = edits.shift(edits.set_metre(tempo_map, 4), by_s)
    taken = edits.take_map(other, tempo_map)
    assert float(taken.time_at(0)) == pytest.approx(float(other.time_at(0)), abs=MICROSECOND)
    assert np.allclose(
        np.diff(taken.time_at(BEATS)), np.diff(tempo_map.time_at(BEATS)), rtol=0, atol=MICROSECOND
    )


@given(tempo_maps())
def test_three_for_two_and_back_is_the_identity(tempo_map: TempoMap) -> None:
    try:
        again = edits.scale_tempo(edits.scale_tempo(tempo_map, 1.5), 2 / 3)
    except TempoMapError:
        return
    _assert_held(tempo_map, again, BEATS)


def test_an_anchor_cannot_pass_its_neighbour() -> None:
    stepped = TempoMap((Anchor(0.0, 0.0, 120.0), Anchor(16.0, 32.0, 125.0), Anchor(31.36, 64.0, 125.0)))
    with pytest.raises(TempoMapError, match=r"past its neighbour at 31\.36 s"):
        anchors.move_anchor(stepped, 16.0, 32.0)
    with pytest.raises(TempoMapError, match="only anchor"):
        anchors.delete_anchor(TempoMap.steady(120, 0), 5.0)
    with pytest.raises(TempoMapError, match="between 30 and 300"):
        anchors.move_anchor(stepped, 16.0, 5.0)


@given(st.floats(70, 170), st.integers(0, 1000), st.sampled_from((0, 3)))
def test_taps_give_the_tempo_with_its_spread_also_when_one_was_missed(
    bpm: float, seed: int, missed: int
) -> None:
    taps = 7.0 + np.arange(16) * 60 / bpm + np.random.default_rng(seed).normal(0, 0.004, 16)
    found = tapped_tempo(list(np.delete(taps, missed) if missed else taps))
    assert found.bpm == pytest.approx(bpm, rel=0.01)
    assert abs(found.bpm - bpm) < 5 * found.spread_bpm + 0.05
    assert not found.by_onsets


def drums_around_a_break(beats: int, bpm: float) -> tuple[OnsetTimes, float, float]:
    """Drums at 124 for 128 beats, so many beats of a tempo with soft chords alone, drums at 130; and where
    the break begins and ends.
    """
    begins_s, ends_s = 128 * 60 / 124, 128 * 60 / 124 + beats * 60 / bpm
    drums = [np.arange(128) * 60 / 124, ends_s + np.arange(128) * 60 / 130]
    chords_s = np.arange(begins_s + 0.1, ends_s - 0.1, 0.11)
    times_s = np.concatenate([*drums, chords_s])
    high = np.concatenate([np.ones(256), np.full(len(chords_s), 0.2)])
    order = np.argsort(times_s)
    return OnsetTimes(times_s[order], np.full(len(order), 0.8), high[order]), begins_s, ends_s


def rows(tempo_map: TempoMap) -> list[tuple[float, float, float]]:
    return [(a.time_s, a.beat, a.bpm) for a in tempo_map.anchors]


def test_a_step_goes_to_the_other_end_of_its_break_and_back() -> None:
    start = Anchor(0.0, 0.0, 124.0)
    onsets, begins_s, ends_s = drums_around_a_break(32, 130.0)
    # As analysis leaves it: late within the break, after a beat of an odd length.
    found = (Anchor(151 * 60 / 124, 151.0, 146.6), Anchor(ends_s - 7 * 60 / 130, 152.0, 130.0))
    early = to_other_end(TempoMap((start, *found)), onsets, 70.0)
    assert rows(early)[1:] == [
        pytest.approx((begins_s, 128.0, 130.0)),
        pytest.approx((ends_s, 160.0, 130.0)),
    ]
    onsets, begins_s, ends_s = drums_around_a_break(32, 124.0)
    late = TempoMap((start, Anchor(ends_s, 160.0, 130.0)))
    early = to_other_end(late, onsets, 70.0)
    assert early.beat_at(ends_s) == pytest.approx(162.0), "32 beats at 124 are nearer to 34 at 130"
    back = to_other_end(early, onsets, 70.0)
    assert np.allclose(back.time_at(BEATS), late.time_at(BEATS), atol=MICROSECOND)


def test_bars_go_on_after_a_break_if_that_hardly_changes_its_tempo() -> None:
    onsets, begins_s, ends_s = drums_around_a_break(120, 124.0)
    found = TempoMap((Anchor(0.0, 0.0, 124.0), Anchor(ends_s, 248.0, 130.0)))
    early = to_other_end(found, onsets, begins_s)
    assert early.beat_at(ends_s) == pytest.approx(252.0), "not 254, as 130 bpm would have it"
    assert np.allclose(
        early.downbeats_between(ends_s, ends_s + 30), found.downbeats_between(ends_s, ends_s + 30)
    )


def test_where_no_break_is_a_step_stays() -> None:
    onsets = OnsetTimes(np.arange(300) * 60 / 124, np.ones(300), np.ones(300))
    with pytest.raises(TempoMapError, match="no step"):
        to_other_end(TempoMap.steady(124.0, 0.0), onsets, 10.0)
    stepped = TempoMap((Anchor(0.0, 0.0, 124.0), Anchor(64 * 60 / 124, 64.0, 248.0)))
    with pytest.raises(TempoMapError, match="no break"):
        to_other_end(stepped, onsets, 10.0)


@given(
    beats=st.integers(8, 90),
    before=st.floats(80, 160),
    after=st.floats(80, 160),
    within=st.floats(0.0, 1.0),
    times=st.integers(1, 4),
)
def test_whatever_end_a_step_goes_to_the_drums_on_both_sides_keep_their_beats(
    beats: int, before: float, after: float, within: float, times: int
) -> None:
    assume(abs(after / before - 1.0) > 0.01)
    begins_s, step_s = 64 * 60 / before, (64 + round(within * beats)) * 60 / before
    ends_s = (64 + beats) * 60 / before
    drums_s = np.concatenate([np.arange(64) * 60 / before, ends_s + np.arange(64) * 60 / after])
    onsets = OnsetTimes(drums_s, np.ones(128), np.ones(128))
    # The tempo after is known from the drums; in the break the grid may be anything that leads there.
    step = Anchor(step_s, 64.0 + round(within * beats), after)
    rest = (ends_s - step_s) * after / 60
    assume(step_s < ends_s or step.beat == 64 + beats)
    found = (step,) if rest < 0.5 else (step, Anchor(ends_s, step.beat + max(1, round(rest)), after))
    try:
        tempo_map = TempoMap((Anchor(0.0, 0.0, before), *found))
        for _ in range(times):
            tempo_map = to_other_end(tempo_map, onsets, step_s)
    except TempoMapError:
        return  # a break of too few beats by the grid, or none that fit in it
    for drum_s in (0.0, begins_s - 60 / before, ends_s, ends_s + 40 * 60 / after):
        beat = float(tempo_map.beat_at(drum_s))
        assert abs(beat - round(beat)) < 1e-3, f"the drum at {drum_s:.3f} s"
    assert float(tempo_map.beat_at(begins_s)) == pytest.approx(64.0, abs=1e-3)
