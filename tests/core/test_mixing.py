"""Two tracks are laid beat on beat, whatever their grids, and meet at the tempo that is wanted."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vinyl.core.planning.mixing import AFTER_S, BEFORE_S, MixError, Settings, Side, drops_meet, mix, settled
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap

LENGTH_S = 240.0


def _steady(bpm: float, first_s: float = 0.2, **more: object) -> Side:
    return Side(TempoMap.steady(bpm, first_s), LENGTH_S, **more)  # type: ignore[arg-type]


def _elastic(bpm: float, seed: int) -> Side:
    """A drummer who wavers by three percent, with an anchor each bar."""
    random, anchors, at_s = np.random.default_rng(seed), [], 0.37
    for bar in range(130):
        tempo = bpm * (1.0 + 0.03 * random.standard_normal())
        anchors.append(Anchor(at_s, 4.0 * bar, tempo))
        at_s += 4 * 60.0 / tempo
    return Side(TempoMap(tuple(anchors)), LENGTH_S)


SIDES = st.builds(_steady, st.floats(60, 200)) | st.builds(_elastic, st.floats(70, 180), st.integers(0, 99))
MEETS = st.sampled_from(["first", "second", "between", "gliding"])


@settings(deadline=None, max_examples=80)
@given(SIDES, SIDES, st.integers(0, 40), MEETS, st.floats(0, LENGTH_S), st.floats(0, LENGTH_S / 2))
def test_beats_lie_on_beats_whatever_the_grids(
    out: Side, into: Side, bars: int, meet: str, out_s: float, in_s: float
) -> None:
    found = mix(out, into, Settings(out_s, in_s, bars, meet))  # type: ignore[arg-type]
    times, outs, ins = found.knots.T
    assert (np.diff(times) > 0).all()
    assert times[0] <= -BEFORE_S * 0.6 and times[-1] >= found.over_s + AFTER_S * 0.6
    for grid, at in ((out.tempo_map, outs), (into.tempo_map, ins)):
        beats = grid.beat_at(at)
        halves = 2.0 if np.diff(beats)[0] == pytest.approx(0.5, abs=1e-6) else 1.0
        assert np.abs(halves * beats - np.round(halves * beats)).max() < 1e-6
    start = int(np.flatnonzero(times == 0.0)[0])
    assert outs[start] == pytest.approx(found.settings.out_s) and ins[start] == pytest.approx(
        found.settings.in_s
    )
    assert found.bars_s[-1] == found.over_s and len(found.bars_s) == bars + 1


@pytest.mark.parametrize(
    ("meet", "first", "last"),
    [("first", 124.0, 124.0), ("second", 126.0, 126.0), ("between", 124.996, 124.996), ("gliding", 124, 126)],
)
def test_they_meet_at_the_tempo_that_is_wanted(meet: str, first: float, last: float) -> None:
    found = mix(_steady(124.0), _steady(126.0), Settings(60.0, 0.2, 16, meet))  # type: ignore[arg-type]
    times, outs, ins = found.knots.T
    tempo = 60.0 / np.diff(times)
    start, end = np.flatnonzero(times == 0.0)[0], np.flatnonzero(times == found.over_s)[0]
    assert (tempo[start], tempo[end - 1]) == pytest.approx((first, last), abs=0.02)
    assert (tempo[0], tempo[-1]) == pytest.approx((124.0, 126.0)), "each alone goes at its own tempo"
    assert np.abs(np.diff(tempo)).max() < 0.2, "the tempo never leaps"
    rates = np.diff(outs) / np.diff(times), np.diff(ins) / np.diff(times)
    assert rates[0][:8] == pytest.approx(1.0) and rates[1][-8:] == pytest.approx(1.0)


@pytest.mark.parametrize(("out", "into", "ratio"), [(87.0, 174.0, 2.0), (174.0, 87.0, 0.5), (124, 126, 1.0)])
def test_twice_as_fast_is_counted_two_beats_to_one(out: float, into: float, ratio: float) -> None:
    found = mix(_steady(out), _steady(into), Settings(60.0, 0.2))
    beats = _steady(into).tempo_map.beat_at(found.knots[:, 2])
    assert np.diff(beats) == pytest.approx(ratio)
    rate = np.diff(found.knots[:, 2]) / np.diff(found.knots[:, 0])
    assert np.abs(rate - 1.0).max() < 0.03


def test_fades_hold_the_power_and_end_where_the_overlap_does() -> None:
    found = mix(_steady(120.0), _steady(120.0), Settings(60.0, 0.2, 8))
    at, goes, comes = found.fades.T
    assert np.hypot(goes, comes) == pytest.approx(1.0, abs=1e-9)
    assert (at[0], at[-1], goes[0], comes[-1]) == pytest.approx((0.0, 16.0, 1.0, 1.0))
    assert (goes[-1], comes[0]) == pytest.approx((0.0, 0.0))
    short = mix(_steady(120.0), _steady(120.0), Settings(60.0, 0.2, 8, fade_bars=2))
    both = [(go, come) for at, go, come in short.fades if 4.0 <= at <= 12.0]
    assert both and all(pair == pytest.approx((1.0, 1.0)) for pair in both)
    cut = mix(_steady(120.0), _steady(120.0), Settings(60.0, 0.2, 0))
    assert cut.over_s == 0.0 and cut.fades[-1].tolist() == [0.0, 0.0, 1.0]


def test_points_are_where_a_dj_has_them() -> None:
    known = mix(_steady(120.0, out_s=180.3), _steady(120.0, in_s=15.9), Settings()).settings
    assert (known.out_s, known.in_s) == pytest.approx((180.2, 15.7))
    unknown = settled(_steady(120.0), _steady(120.0), Settings(over_bars=16))
    phrase = (unknown.out_s - 0.2) / 16.0  # type: ignore[operator]
    assert phrase == pytest.approx(round(phrase)) and LENGTH_S - unknown.out_s >= 32.0  # type: ignore[operator]
    assert unknown.in_s == pytest.approx(0.2)
    gone = settled(_steady(120.0), _steady(120.0), Settings(out_s=400.0, in_s=300.0))
    assert (gone.out_s, gone.in_s) == (unknown.out_s, unknown.in_s), "the file was changed for a shorter one"
    short = Side(TempoMap.steady(120.0, 0.2), 3.0)
    assert settled(short, short, Settings()).out_s == pytest.approx(0.2)
    with pytest.raises(MixError, match="256"):
        mix(_steady(120.0), _steady(120.0), Settings(over_bars=257))


def test_the_second_is_as_loud_as_the_first_as_far_as_its_peak_has_room() -> None:
    loud, soft = _steady(120.0, lufs=-8.0), _steady(120.0, lufs=-14.0)
    assert mix(loud, soft, Settings()).gain_db == pytest.approx(6.0)
    assert mix(soft, loud, Settings()).gain_db == pytest.approx(-6.0)
    assert mix(loud, replace(soft, true_peak_db=-2.0), Settings()).gain_db == pytest.approx(1.7)
    assert mix(soft, replace(loud, true_peak_db=0.5), Settings()).gain_db == pytest.approx(-6.0)
    assert mix(loud, replace(soft, lufs=None), Settings()).gain_db == 0.0


@given(st.sampled_from([87.0, 120.0, 124.0]), st.sampled_from([60.0, 124.0, 174.0]), st.integers(1, 10))
def test_both_drops_meet(out_bpm: float, in_bpm: float, main_bar: int) -> None:
    out = _steady(out_bpm)
    drops = tuple(float(out.tempo_map.time_at(4 * bar)) for bar in (24, 40))
    out = replace(out, drops_s=drops)
    into = _steady(in_bpm)
    into = replace(into, in_s=0.2, main_s=float(into.tempo_map.time_at(8 * main_bar)))
    found = mix(out, into, drops_meet(out, into, Settings(over_bars=4)))
    at = np.interp(into.main_s, found.knots[:, 2], found.knots[:, 0])  # type: ignore[arg-type]
    heard = float(np.interp(at, found.knots[:, 0], found.knots[:, 1]))
    assert min(abs(heard - drop) for drop in drops) < 1e-6
    assert found.over_s >= at - 1e-6


def test_drops_that_cannot_meet_are_refused_in_words() -> None:
    out, into = _steady(120.0, drops_s=(4.2,)), _steady(120.0, in_s=0.2, main_s=30.2)
    with pytest.raises(MixError, match="far enough"):
        drops_meet(out, into, Settings())
    with pytest.raises(MixError, match="main part"):
        drops_meet(out, replace(into, main_s=None), Settings())
    assert math.isclose(drops_meet(replace(out, drops_s=(60.2,)), into, Settings()).out_s or 0.0, 30.2)
