"""Steady, stepped and elastic tempo, metres and bar starts, against drums whose beats are known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.signal import resample_poly

from tests.signals import drum_loop, drums_on
from vinyl.core.analysis import analyse
from vinyl.core.rhythm.grid import GridEstimate
from vinyl.core.rhythm.tempo_map import TempoMap

STEP_BEAT = 128


def _grid(samples: NDArray[np.float32], window: tuple[float, float] | None = None) -> GridEstimate:
    grid = analyse(samples, window).grid
    assert grid is not None
    return grid


def _strays(tempo_map: TempoMap, beats_s: NDArray[np.float64]) -> NDArray[np.float64]:
    strays: NDArray[np.float64] = np.abs(tempo_map.time_at(np.rint(tempo_map.beat_at(beats_s))) - beats_s)
    return strays


@settings(max_examples=4, deadline=None)
@given(st.floats(95, 135), st.sampled_from((0.94, 0.985, 1.02, 1.07)))
def test_a_step_is_found_on_its_beat(bpm: float, ratio: float) -> None:
    first, second = 60.0 / bpm, 60.0 / (bpm * ratio)
    lengths = np.concatenate([np.full(STEP_BEAT, first), np.full(STEP_BEAT, second)])
    beats_s = 0.3 + np.concatenate([[0.0], np.cumsum(lengths)])
    grid = _grid(drums_on(beats_s[:-1], float(beats_s[-1]) + 0.5), (0.8 * bpm, 1.25 * bpm))
    assert grid.tempo_map.kind == "stepped"
    step = min(grid.tempo_map.anchors, key=lambda anchor: abs(anchor.time_s - beats_s[STEP_BEAT]))
    assert step.time_s == pytest.approx(beats_s[STEP_BEAT], abs=0.006)
    assert _strays(grid.tempo_map, beats_s[:-1]).max() < 0.01
    assert grid.tempo_map.anchors[0].bpm == pytest.approx(bpm, abs=0.03)
    assert grid.tempo_map.anchors[-1].bpm == pytest.approx(bpm * ratio, abs=0.03)


@settings(max_examples=2, deadline=None)
@given(st.floats(96, 132), st.integers(0, 9))
def test_a_drummer_gets_a_smooth_elastic_grid(bpm: float, seed: int) -> None:
    random = np.random.default_rng(seed)
    course = 1 + 0.02 * np.sin(np.arange(320) / 35.0 + seed) + 0.004 * random.standard_normal(320)
    beats_s = 0.2 + np.cumsum(60.0 / bpm / course)
    played_s = beats_s + random.normal(0, 0.003, 320)
    grid = _grid(drums_on(played_s, float(beats_s[-1]) + 1.0), (0.75 * bpm, 1.4 * bpm))
    assert grid.tempo_map.kind == "elastic"
    assert np.mean(_strays(grid.tempo_map, beats_s) < 0.015) >= 0.95
    assert len(grid.tempo_map.anchors) <= 82, "no more than an anchor a bar"


def test_a_drummer_who_plays_to_a_click_stays_steady() -> None:
    random = np.random.default_rng(3)
    beats_s = 0.5 + np.arange(240) * 60.0 / 117.0
    grid = _grid(drums_on(beats_s + random.normal(0, 0.005, 240), 124.0))
    assert grid.tempo_map.kind == "steady"
    assert grid.tempo_map.bpm == pytest.approx(117.0, abs=0.02)
    assert _strays(grid.tempo_map, beats_s).max() < 0.008


@pytest.mark.parametrize("metre", [3, 4, 5, 6, 7])
def test_the_metre_and_its_first_beat_are_found(metre: int) -> None:
    beats_s = 0.25 + np.arange(metre * 26) * 60.0 / 128.0
    grid = _grid(drums_on(beats_s, float(beats_s[-1]) + 0.5, metre), (100, 160))
    assert grid.tempo_map.beats_per_bar == metre
    bar = (float(grid.tempo_map.beat_at(0.25)) / metre) % 1.0
    assert min(bar, 1 - bar) < 0.02


def test_thirty_seconds_without_drums_do_not_lose_the_count() -> None:
    beats_s = 0.1 + np.arange(256) * 60.0 / 122.0
    samples = drums_on(beats_s, 127.0)
    first, last = int(40.0 * 44100), int(72.0 * 44100)
    samples[:, first:last] = 0.02 * np.random.default_rng(1).standard_normal(last - first).astype(np.float32)
    grid = _grid(samples)
    assert grid.tempo_map.kind == "steady"
    assert _strays(grid.tempo_map, beats_s).max() < 0.005
    assert float(grid.tempo_map.beat_at(0.1)) % 4 == pytest.approx(0.0, abs=0.02)


def test_half_a_percent_of_speed_moves_the_tempo_by_just_that() -> None:
    loop = drum_loop(125.0, 0.3, 90.0)
    faster = resample_poly(loop, 200, 201, axis=1).astype(np.float32)
    assert _grid(faster).tempo_map.bpm / _grid(loop).tempo_map.bpm == pytest.approx(1.005, abs=2e-5)


def test_noise_over_drums_raises_the_doubt_and_says_why() -> None:
    loop = drum_loop(124.0, 0.0, 60.0)
    noise = np.random.default_rng(2).standard_normal(loop.shape).astype(np.float32)
    clean, buried = _grid(loop), analyse(0.02 * loop + 0.3 * noise).grid
    assert clean.doubt < 0.3
    assert buried is None or (buried.doubt > clean.doubt and buried.reasons)
