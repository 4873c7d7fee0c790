"""The tempo map and its edits, on random maps."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm import edits
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap, anchors_from, anchors_to

MICROSECOND = 1e-6
times_in = st.floats(-5, 400)


@st.composite
def tempo_maps(draw: st.DrawFn) -> TempoMap:
    """Maps of one to six anchors with tempi that stay within limits, also when halved or doubled."""
    bpm = st.floats(65, 145)
    time, beat, anchors = draw(st.floats(-2, 5)), 0.0, []
    for _ in range(draw(st.integers(1, 6))):
        tempo = draw(bpm)
        anchors.append(Anchor(time, beat, tempo))
        beats = draw(st.integers(1, 64))
        time, beat = time + beats * 60 / tempo, beat + beats
    return TempoMap(tuple(anchors), draw(st.sampled_from((3, 4, 5, 6, 7))))


@given(tempo_maps(), times_in)
def test_seconds_and_beats_are_inverse(tempo_map: TempoMap, time_s: float) -> None:
    assert float(tempo_map.time_at(tempo_map.beat_at(time_s))) == pytest.approx(time_s, abs=MICROSECOND)


@given(tempo_maps(), st.floats(0, 100), st.floats(1, 200))
def test_beats_between_are_all_whole_beats_in_order(
    tempo_map: TempoMap, start_s: float, length_s: float
) -> None:
    beats = tempo_map.beats_between(start_s, start_s + length_s)
    assert np.all(np.diff(beats) > 0)
    assert np.allclose(tempo_map.beat_at(beats), np.rint(tempo_map.beat_at(beats)), atol=1e-6)
    expected = tempo_map.beat_at(start_s + length_s) - tempo_map.beat_at(start_s)
    assert abs(len(beats) - float(expected)) <= 1
    assert set(np.round(tempo_map.downbeats_between(start_s, start_s + length_s), 6)) <= set(
        np.round(beats, 6)
    )


@given(tempo_maps(), st.floats(-3, 3))
def test_shift_moves_every_beat_alike(tempo_map: TempoMap, by_s: float) -> None:
    shifted = edits.shift(tempo_map, by_s)
    beats = np.arange(-8, 300)
    assert np.allclose(shifted.time_at(beats) - tempo_map.time_at(beats), by_s, atol=MICROSECOND)


@given(tempo_maps(), st.floats(0, 300))
def test_bar_starts_here_holds_the_beats(tempo_map: TempoMap, time_s: float) -> None:
    changed = edits.bar_starts_here(tempo_map, time_s)
    assert np.allclose(changed.beats_between(0, 300), tempo_map.beats_between(0, 300), atol=MICROSECOND)
    held = float(tempo_map.time_at(tempo_map.nearest_beat(time_s)))
    beat = float(changed.beat_at(held))
    assert beat / changed.beats_per_bar == pytest.approx(round(beat / changed.beats_per_bar), abs=1e-6)
    if tempo_map.nearest_beat(time_s) % tempo_map.beats_per_bar == 0:
        assert changed == tempo_map, "a line that is right already stays what it is"
    else:
        assert float(changed.time_at(0)) >= -edits.WITHIN_S - MICROSECOND
        before_s = float(changed.time_at(-changed.beats_per_bar))
        assert before_s < -edits.WITHIN_S + MICROSECOND, "bar 1 is the first in the sound"


@pytest.mark.parametrize("first_s", [-0.0004, -0.019, 0.0, 0.3])
def test_a_bar_moves_by_a_beat_and_back_wherever_bar_1_lies(first_s: float) -> None:
    right = TempoMap.steady(120.0, first_s)
    assert edits.bar_starts_here(right, 24.0 + first_s) == right
    wrong = edits.bar_starts_here(right, 24.5 + first_s)
    assert float(wrong.time_at(0)) == pytest.approx(first_s + 0.5)
    assert edits.bar_starts_here(wrong, 24.0 + first_s) == right


@given(tempo_maps())
def test_halve_then_double_is_the_identity(tempo_map: TempoMap) -> None:
    again = edits.scale_tempo(edits.scale_tempo(tempo_map, 0.5), 2.0)
    assert again == tempo_map
    halved = edits.scale_tempo(tempo_map, 0.5)
    assert float(halved.time_at(0)) == pytest.approx(float(tempo_map.time_at(0)), abs=MICROSECOND)


@given(tempo_maps(), st.floats(0, 200), st.floats(30, 300))
def test_a_new_tempo_holds_the_beat_it_was_asked_to(tempo_map: TempoMap, hold_s: float, bpm: float) -> None:
    held_beat = tempo_map.nearest_beat(hold_s)
    held_s = float(tempo_map.time_at(held_beat))
    whole = edits.set_tempo(tempo_map, bpm, hold_s)
    assert whole.bpm == bpm
    assert float(whole.time_at(whole.nearest_beat(held_s))) == pytest.approx(held_s, abs=MICROSECOND)
    assume(held_beat > tempo_map.anchors[0].beat)
    onward = edits.tempo_from_here(tempo_map, hold_s, bpm)
    before = np.arange(tempo_map.anchors[0].beat - 4, held_beat + 1)
    assert np.allclose(onward.time_at(before), tempo_map.time_at(before), atol=MICROSECOND)
    assert float(onward.time_at(held_beat + 1)) - held_s == pytest.approx(60 / bpm, abs=MICROSECOND)


@given(tempo_maps(), times_in)
def test_snapping_lands_on_its_unit(tempo_map: TempoMap, time_s: float) -> None:
    for unit, beats in (
        ("beat", 1),
        ("bar", tempo_map.beats_per_bar),
        ("phrase", 8 * tempo_map.beats_per_bar),
    ):
        at = float(tempo_map.beat_at(tempo_map.snap(time_s, unit))) / beats  # type: ignore[arg-type]
        assert at == pytest.approx(round(at), abs=1e-6)
    assert tempo_map.snap(time_s, "off") == time_s
    assert anchors_from(anchors_to(tempo_map)) == tempo_map.anchors


@pytest.mark.parametrize(
    "anchors",
    [
        (),
        (Anchor(0, 0, 29.9),),
        (Anchor(0, 0, 300.1),),
        (Anchor(1, 0, 120), Anchor(1, 4, 120)),
        (Anchor(0, 4, 120), Anchor(1, 4, 120)),
        (Anchor(0, 0, 120), Anchor(1, 16, 120)),
    ],
)
def test_what_breaks_an_invariant_is_refused(anchors: tuple[Anchor, ...]) -> None:
    with pytest.raises(TempoMapError):
        TempoMap(anchors)


def test_edits_out_of_range_are_refused() -> None:
    fast = TempoMap.steady(180, 0)
    for refused in (
        lambda: edits.scale_tempo(fast, 2),
        lambda: edits.set_tempo(fast, 20),
        lambda: edits.set_metre(fast, 9),
    ):
        with pytest.raises(TempoMapError):
            refused()
