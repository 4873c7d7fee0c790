"""What is hard to hear: each weakness of an earlier analysis as a case made from its description."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.signals import RATE_HZ, Samples, click_track, drums_on, pattern_on
from vinyl.bench.agreement import DISGUISES, measure_agreement, ours
from vinyl.core.analysis import Analysis, analyse
from vinyl.core.likeness.compare import compare
from vinyl.core.likeness.fingerprint import FingerprintMeter
from vinyl.core.likeness.offset import settle_offset
from vinyl.core.rhythm.onset import onsets
from vinyl.core.rhythm.onset_times import find_onset_times
from vinyl.core.spectrum import HOP, SpectrumMeter
from vinyl.demo.fresh import natural_score, only_drums
from vinyl.demo.render import render

FloatArray = NDArray[np.float64]

BREAK = {"kick": "X.........X.....", "snare": "....X.......X...", "hat": "x.x.x.x.x.x.x.x."}
SLOW = {"kick": "X.......X.......", "snare": "........X.......", "hat": "x.xxx.xxx.xxx.xx"}
FOUR = {"kick": "X...X...X...X...", "snare": "....X.......X...", "hat": "..x...x...x...x."}
BUILD = {"bass": "..x...x...x...x."}


def even(bpm: float, beats: int, first_s: float = 0.3) -> FloatArray:
    return first_s + np.arange(beats) * 60.0 / bpm


def share_near(result: Analysis, beats_s: FloatArray, near_s: float = 0.02) -> float:
    """The share of true beats that have one of the grid so near."""
    assert result.grid is not None
    found = result.grid.tempo_map.beats_between(0.0, result.duration_s)
    return float((np.abs(beats_s[:, None] - found[None, :]).min(axis=1) < near_s).mean())


@pytest.mark.parametrize(("bpm", "pattern"), [(190.0, BREAK), (126.0, FOUR)])
def test_the_beat_is_the_level_that_drums_divide(bpm: float, pattern: dict[str, str]) -> None:
    result = analyse(pattern_on(even(bpm, round(bpm * 2)), pattern))
    assert result.grid is not None
    assert result.grid.tempo_map.bpm == pytest.approx(bpm, abs=0.05)


def test_where_two_levels_are_nearly_as_good_doubt_tells_and_offers_the_other_one() -> None:
    """A slow bar with the snare on its third beat is a fast one with it on every fifth."""
    grid = analyse(pattern_on(even(75.0, 150), SLOW)).grid
    assert grid is not None and grid.other_bpm is not None and grid.doubt > 0.1
    assert sorted([grid.tempo_map.bpm, grid.other_bpm]) == pytest.approx([75.0, 150.0], abs=0.05)
    assert any("as fast" in reason for reason in grid.reasons)


def test_beats_are_carried_on_through_builds_without_drums() -> None:
    """A tempo that rises from 118 to 131, and twice only an off-beat bass for 16 bars."""
    beats_s = 0.5 + np.concatenate([[0.0], np.cumsum(60.0 / np.linspace(118.0, 131.0, 519))])
    result = analyse(pattern_on(beats_s, {**FOUR, **BUILD}, (BUILD, (128, 192), (320, 384))))
    assert share_near(result, beats_s) > 0.97


def test_a_step_of_ten_to_nine_near_the_end_is_heard() -> None:
    first = even(166.7, 494)
    beats_s = np.concatenate([first, first[-1] + np.arange(1, 91) * 0.4])
    result = analyse(drums_on(beats_s, float(beats_s[-1]) + 1.0))
    assert result.grid is not None and result.grid.tempo_map.kind == "stepped"
    assert share_near(result, beats_s, 0.01) > 0.98


def in_steps() -> Samples:
    first = even(166.7, 166)
    beats_s = np.concatenate([first, first[-1] + np.arange(1, 151) * 0.4])
    return drums_on(beats_s, float(beats_s[-1]) + 1.0)


def by_a_drummer() -> Samples:
    random = np.random.default_rng(3)
    period_s = 60.0 / (112.0 * (1.0 + np.cumsum(random.normal(0.0, 0.0022, 220))))
    return pattern_on(0.4 + np.cumsum(period_s) + random.normal(0.0, 0.004, 220), FOUR)


def in_sections() -> Samples:
    return render(natural_score(71_004))


@pytest.mark.parametrize("made", [in_steps, by_a_drummer, in_sections])
def test_the_same_music_asked_again_gets_the_same_answers(made: Callable[[], Samples]) -> None:
    found = measure_agreement([made()], {"ours": ours})["ours"]
    assert list(found) == [*(disguise.name for disguise in DISGUISES), "all of them"]
    for kind, row in found.items():
        same = [row[name] for name in ("same grid", "same bars", "same course", "same key")]
        assert same == [1.0] * 4 and row["section F"] in (None, 1.0), kind
        assert row["energy differs, 95%"] <= 1.0, kind


def one_after_another(*tempi_bpm: float, beats: int = 192) -> FloatArray:
    parts = [even(tempi_bpm[0], beats)]
    for bpm in tempi_bpm[1:]:
        parts.append(parts[-1][-1] + np.arange(1, beats + 1) * 60.0 / bpm)
    return np.concatenate(parts)


@pytest.mark.parametrize("tempi_bpm", [(98.0, 112.0), (120.0, 128.0), (90.0, 120.0)])
def test_one_pattern_at_two_tempi_is_not_steady(tempi_bpm: tuple[float, float]) -> None:
    """Folded by beats of one, the other falls together too: 16 beats at 128 are as long as 15 at 120."""
    beats_s = one_after_another(*tempi_bpm)
    result = analyse(pattern_on(beats_s, FOUR))
    assert result.grid is not None and result.grid.tempo_map.kind == "stepped"
    assert share_near(result, beats_s, 0.01) > 0.98


def test_a_tempo_gives_way_after_whole_bars_where_both_have_beats_together_more_often() -> None:
    """At 5 to 6 every fifth beat is one of both, and a bass off the beat is all that leads to the change."""
    beats_s = one_after_another(138.0, 134.0, 160.8, beats=128)
    result = analyse(pattern_on(beats_s, FOUR, (BUILD, (244, 256), (-1, -1))))
    assert result.grid is not None
    downbeats_s = result.grid.tempo_map.downbeats_between(0.0, result.duration_s)
    away_s = np.abs(beats_s[::4, None] - downbeats_s[None, :]).min(axis=1)
    assert (away_s < 0.02).mean() > 0.97


def test_tempi_that_rise_by_steps_far_over_half_an_octave_keep_their_beat() -> None:
    beats_s = one_after_another(92.0, 112.0, 138.0, 162.0, beats=96)
    assert share_near(analyse(pattern_on(beats_s, FOUR)), beats_s, 0.01) > 0.98


def test_a_mix_whose_tempi_go_up_and_begin_again_stays_in_its_octave() -> None:
    """Each step up is nearest as it is; taken one by one they would end in hundreds of beats a second."""
    beats_s = one_after_another(*3 * (85.0, 110.0, 142.0), beats=48)
    result = analyse(pattern_on(beats_s, FOUR))
    assert result.grid is not None
    tempi_bpm = np.array([anchor.bpm for anchor in result.grid.tempo_map.anchors])
    assert tempi_bpm.max() < 4.0 * tempi_bpm.min()
    found_s = result.grid.tempo_map.beats_between(beats_s[0], beats_s[-1])
    assert (np.abs(found_s[:, None] - beats_s[None, :]).min(axis=1) < 0.02).mean() > 0.9


def test_a_part_without_drums_takes_its_beat_from_the_next() -> None:
    """A lone bass on every second sixteenth, then drums, faster."""
    beats_s = one_after_another(98.0, 112.0, beats=128)
    lone = ({"bass": ".x...x...x...x.."}, (0, 128), (-1, -1))
    result = analyse(pattern_on(beats_s, FOUR, lone))
    assert share_near(result, beats_s, 0.01) > 0.98


def test_a_tempo_faster_than_any_grid_ends_in_a_result() -> None:
    result = analyse(click_track(np.arange(0.25, 60.0, 60.0 / 304.942), 60.0))
    assert result.grid is None or result.grid.tempo_map.bpm == pytest.approx(152.471, abs=0.05)


@pytest.mark.parametrize("seed", [71_001, 71_002])
def test_drums_alone_have_no_key_even_when_one_is_tuned(seed: int) -> None:
    assert analyse(render(only_drums(natural_score(seed)))).key.key is None


def fingerprint(samples: Samples) -> NDArray[np.uint32]:
    spectra = SpectrumMeter(RATE_HZ)
    meter = FingerprintMeter(spectra.rate_hz)
    meter.push(spectra.push(samples.mean(axis=0)))
    meter.push(spectra.finish())
    return meter.finish()


@pytest.mark.parametrize("silence_s", [0.37, 1.0, 1.7, 3.3])
def test_silence_before_a_loop_is_told_to_the_millisecond(silence_s: float) -> None:
    """Each bar is like the others; only where the sound begins tells which is which."""
    loop = pattern_on(even(137.0, 16, 0.0), FOUR)[:, : round(16 * 60 / 137 * RATE_HZ)]
    plain = np.tile(loop, (1, 12))
    later = np.hstack([np.zeros((2, round(silence_s * RATE_HZ)), np.float32), 0.3 * plain])
    match = compare(fingerprint(plain), fingerprint(later), RATE_HZ / 4 / HOP)
    assert match.relation == "same"
    attacks = [find_onset_times(onsets(each.mean(axis=0), RATE_HZ)).times_s for each in (plain, later)]
    assert settle_offset(attacks[0], attacks[1], match.offset_s) == pytest.approx(silence_s, abs=0.002)
