"""What the Workbench computes besides the grid itself: attacks, drift, the raster, cues, routes, and what is
left to do.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from tests.core.test_tempo_map import tempo_maps
from tests.signals import RATE_HZ, click_track, drum_loop, drums_on
from vinyl.core.cues.moving import Span, onto_grid
from vinyl.core.cues.proposals import CueProposal
from vinyl.core.cues.routes import FADE_S, Jump, RouteError, length_s, route_blocks, stretches
from vinyl.core.cues.templates import TemplateCue, apply_template
from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm import edits
from vinyl.core.rhythm.drift import measure_drift
from vinyl.core.rhythm.onset import onsets
from vinyl.core.rhythm.onset_times import OnsetTimes, find_onset_times
from vinyl.core.rhythm.raster import COLUMNS, MARGIN, bars_in, fold_bars
from vinyl.core.rhythm.rescan import rescan, rescan_stretch
from vinyl.core.rhythm.tapping import tapped_tempo
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.rules.finishing import FinishRules, Preparation, what_is_left


@pytest.fixture(scope="module")
def attacks() -> OnsetTimes:
    return find_onset_times(onsets(drum_loop(124.3, 0.5, 60.0).mean(axis=0), RATE_HZ))


def test_attacks_are_found_where_clicks_begin() -> None:
    clicks_s = np.sort(np.random.default_rng(5).uniform(0.2, 19.5, 40))
    clicks_s = clicks_s[np.diff(clicks_s, prepend=0) > 0.05]
    found = find_onset_times(onsets(click_track(clicks_s, 20.0).mean(axis=0), RATE_HZ)).times_s
    assert len(found) == len(clicks_s)
    assert np.abs(found - clicks_s).max() < 0.0015


def test_snapping_draws_to_the_strong_attack_and_says_when_there_is_none(attacks: OnsetTimes) -> None:
    beat_s = 0.5 + 40 * 60 / 124.3
    assert attacks.nearest(beat_s + 0.02) == pytest.approx(beat_s, abs=0.002)
    with pytest.raises(TempoMapError, match="no attack within 60 ms"):
        OnsetTimes(np.array([1.0]), np.ones(1), np.ones(1)).nearest(2.0)


@pytest.mark.parametrize("off_ms", [-14.0, 0.0, 9.0])
def test_drift_tells_how_far_attacks_lie_from_the_grid(attacks: OnsetTimes, off_ms: float) -> None:
    drift = measure_drift(attacks, TempoMap.steady(124.3, 0.5 - off_ms / 1000), 60.0)
    assert np.abs(1000 * drift.offset_s - off_ms).max() < 2.0
    assert len(drift.times_s) > 10 and np.all(drift.spread_s < 0.012)


def test_drift_grows_where_the_tempo_is_wrong(attacks: OnsetTimes) -> None:
    drift = measure_drift(attacks, TempoMap.steady(124.3 * 1.0005, 0.5), 60.0)
    assert drift.worst_s is not None and drift.worst_s > 45
    assert drift.offset_s[-1] == pytest.approx(0.0005 * drift.times_s[-1], abs=0.003)
    assert measure_drift(OnsetTimes(*(np.zeros(0),) * 3), TempoMap.steady(120, 0), 60.0).worst_s is None


def test_eight_taps_of_an_unsteady_hand_give_half_a_bpm(attacks: OnsetTimes) -> None:
    random = np.random.default_rng(1)
    off = []
    for first in random.integers(0, 80, 100):
        taps = 0.5 + (first + np.arange(8)) * 60 / 124.3 + random.normal(0, 0.015, 8)
        off.append(abs(tapped_tempo(list(taps), attacks).bpm - 124.3))
    assert np.mean(np.array(off) < 0.5) > 0.95


def test_the_raster_of_a_right_grid_stands_in_stripes_and_of_a_wrong_one_leans() -> None:
    rate_hz = RATE_HZ / 256
    onset = np.zeros(round(60 * rate_hz), np.uint8)
    onset[np.rint((0.5 + np.arange(123) * 60 / 124.3) * rate_hz).astype(int)] = 255
    grid = TempoMap.steady(124.3, 0.5)
    folded = fold_bars(onset, rate_hz, grid, 60.0)
    assert folded.shape == (len(bars_in(grid, 60.0)), COLUMNS)
    lines = np.array([MARGIN + beat / 4 for beat in range(4)]) / (1 + 2 * MARGIN) * COLUMNS
    middle = folded[2:-2]
    assert np.mean([middle[:, round(x) - 1 : round(x) + 2].max(axis=1) == 255 for x in lines]) > 0.98
    leaning = fold_bars(onset, rate_hz, TempoMap.steady(124.3 * 1.004, 0.5), 60.0)
    first, last = (int(np.argmax(leaning[row, round(lines[1]) - 6 : round(lines[2]) - 2])) for row in (2, -4))
    assert last - first > 10


def blocks_of(samples: NDArray[np.float32]) -> Iterator[NDArray[np.float32]]:
    """The sound in pieces of uneven sizes, as a decoder gives it."""
    for start in range(0, samples.shape[1], 30_011):
        yield samples[:, start : start + 30_011]


def test_a_rescan_gives_the_kind_asked_for_and_holds_what_is_outside() -> None:
    beats_s = 0.4 + np.concatenate([[0.0], np.cumsum(np.where(np.arange(199) < 100, 0.5, 0.5 / 1.03))])
    samples = drums_on(beats_s, float(beats_s[-1]) + 0.6)
    wrong = TempoMap.steady(120.0, 0.4)
    right = rescan_stretch(blocks_of(samples), RATE_HZ, wrong, "steady", (52.4, 96.0))
    held = np.arange(0, 104)
    assert np.allclose(right.time_at(held), wrong.time_at(held), rtol=0, atol=1e-6)
    strays = np.abs(right.time_at(np.rint(right.beat_at(beats_s[108:180]))) - beats_s[108:180])
    assert strays.max() < 0.008
    assert rescan(blocks_of(samples), RATE_HZ, "stepped").kind == "stepped"
    with pytest.raises(TempoMapError, match="one tempo all the same"):
        rescan(blocks_of(drum_loop(120, 0.2, 40.0)), RATE_HZ, "stepped")
    with pytest.raises(TempoMapError, match="No beat"):
        rescan(blocks_of(np.zeros((2, 10 * RATE_HZ), np.float32)), RATE_HZ, "steady")


@given(
    tempo_maps(),
    st.floats(0, 190),
    st.sampled_from((None, 0.25, 1, 16)),
    st.sampled_from(("beat", "bar", "phrase")),
)
def test_cues_move_onto_the_grid_and_loops_keep_their_beats(
    tempo_map: TempoMap, position_s: float, beats: float | None, unit: str
) -> None:
    start = float(tempo_map.beat_at(position_s))
    length = None if beats is None else float(tempo_map.time_at(start + beats)) - position_s
    moved = onto_grid(Span(position_s, length), tempo_map, 200.0, unit)  # type: ignore[arg-type]
    assert 0 <= moved.position_s <= 200
    if moved == Span(position_s, length):
        return
    at = float(tempo_map.beat_at(moved.position_s))
    assert at == pytest.approx(round(at), abs=1e-6) or moved.position_s in (0.0, 200.0)
    if beats is not None and moved.length_s is not None:
        assert float(tempo_map.beat_at(moved.position_s + moved.length_s)) - at == pytest.approx(
            beats, abs=1e-6
        )


def test_a_template_counts_from_each_place_and_adds_nothing_twice() -> None:
    grid = TempoMap.steady(120.0, 0.0)
    places = [
        CueProposal(8.0, "main", "main"),
        CueProposal(40.0, None, "drop"),
        CueProposal(72.0, None, "drop"),
        CueProposal(90.0, "out", "out"),
    ]
    template = [
        TemplateCue("drop", -32.0, label="before", pad=3),
        TemplateCue("out", 0.0, 16.0, engages=True),
        TemplateCue("main", -32.0),
    ]
    made = apply_template(template, places, [24.1], grid, 100.0)
    assert [(cue.position_s, cue.length_s, cue.pad, cue.there) for cue in made] == [
        (24.0, None, 3, True),
        (56.0, None, None, False),
        (90.0, 8.0, None, False),
    ]
    assert apply_template([TemplateCue("out", 0.0, 64.0)], places, [], grid, 100.0) == [], (
        "it would reach past the end"
    )


def test_a_route_plays_its_stretches_to_the_sample_with_quiet_joints() -> None:
    t = np.arange(20 * RATE_HZ) / RATE_HZ
    samples = np.stack([np.sin(2 * np.pi * 50 * t)] * 2).astype(np.float32)
    played = stretches([Jump(4.0, 8.0), Jump(12.01, 2.0), Jump(6.0, 16.0)], 20.0)
    assert length_s(played) == pytest.approx(4.0 + 4.01 + 4.0 + 4.0)
    read = lambda first, end: samples[:, first:end]  # noqa: E731
    sound = np.concatenate(list(route_blocks(read, RATE_HZ, played)), axis=1)
    assert sound.shape[1] == sum(round(s.end_s * RATE_HZ) - round(s.start_s * RATE_HZ) for s in played)
    assert np.abs(np.diff(sound[0])).max() < 1.5 * np.abs(np.diff(samples[0])).max(), "no click at a joint"
    joint = round(4.0 * RATE_HZ)
    assert np.array_equal(sound[:, joint : joint + 1000], samples[:, 8 * RATE_HZ : 8 * RATE_HZ + 1000]), (
        "the attack stays whole"
    )
    before = joint - round(FADE_S * RATE_HZ)
    assert np.array_equal(sound[:, :before], samples[:, :before])
    for jumps, words in (
        ([Jump(4, 30)], "outside"),
        ([Jump(4, 8), Jump(6, 2)], "never reached"),
        ([Jump(4, 2)] * 80, "at most"),
    ):
        with pytest.raises(RouteError, match=words):
            stretches(jumps, 20.0)


def test_what_is_left_follows_the_rules_and_the_locks() -> None:
    new = Preparation(0.5, False, "A minor", 0.1, 1, frozenset({"in"}), 0, frozenset())
    assert what_is_left(new, FinishRules()) == ["grid", "key"]
    assert what_is_left(new, FinishRules("locked", False, 3, ("in", "main"), True)) == [
        "grid",
        "cues",
        "tags",
    ]
    done = Preparation(
        0.9, False, None, None, 3, frozenset({"in", "main", "out"}), 4, frozenset({"grid", "key"})
    )
    assert what_is_left(done, FinishRules("locked", True, 3, ("in", "out"), True)) == []
    by_hand = Preparation(None, True, "A minor", 0.9, 0, frozenset(), 0, frozenset())
    assert what_is_left(by_hand, FinishRules("by hand or locked", cues=0)) == []
    assert what_is_left(by_hand, FinishRules("locked", cues=0)) == ["grid"]


def test_edits_that_change_nothing_in_time_do_not_change_the_drift(attacks: OnsetTimes) -> None:
    grid = TempoMap.steady(124.3, 0.5)
    one, other = (measure_drift(attacks, m, 60.0) for m in (grid, edits.move_bar_starts(grid, 4)))
    assert np.array_equal(one.offset_s, other.offset_s)


def test_a_grid_of_another_tempo_altogether_shows_as_wrong(attacks: OnsetTimes) -> None:
    drift = measure_drift(attacks, TempoMap.steady(117.0, 0.5), 60.0)
    assert len(drift.times_s) > 5 and np.abs(drift.offset_s).max() > 0.01
