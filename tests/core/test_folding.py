"""Onset strengths summed by their place in the beat, against the same sums made one by one."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vinyl.core.rhythm import steady
from vinyl.core.rhythm.steady import beat_rows, fold

RATE_HZ = 689.0


@settings(max_examples=60, deadline=None)
@given(
    st.integers(1, 900), st.integers(8, 400), st.floats(0.2, 1.4), st.floats(-300, 300), st.integers(0, 99)
)
def test_every_strength_lands_in_its_beat_and_bin(
    count: int, bins: int, step: float, start: float, seed: int
) -> None:
    envelope = np.random.default_rng(seed).random(count)
    first, rows = beat_rows(envelope, step, bins, start)
    expected: dict[tuple[int, int], float] = {}
    on_edge = 0.0
    for number, value in enumerate(envelope):
        exact = (number + start) * step
        on_edge += float(value) if abs(exact - round(exact)) < 1e-6 else 0.0
        place = int(np.floor(exact + 1e-9))
        expected[place // bins, place % bins] = expected.get((place // bins, place % bins), 0.0) + float(
            value
        )
    found = {(first + beat, bin_): float(rows[beat, bin_]) for beat, bin_ in np.argwhere(rows > 0)}
    assert rows.sum() == pytest.approx(envelope.sum())
    moved = sum(abs(found.get(key, 0.0) - expected.get(key, 0.0)) for key in found.keys() | expected.keys())
    assert moved <= 2 * on_edge + 1e-6, "only what lies on the very edge of a bin may fall to either side"


@given(st.floats(0.3, 1.0), st.integers(40, 200))
def test_a_click_on_the_beat_folds_into_one_bin(period_s: float, beats: int) -> None:
    envelope = np.zeros(round(beats * period_s * RATE_HZ) + 2)
    envelope[np.ceil(np.arange(beats) * period_s * RATE_HZ).astype(int)] = 1.0
    folded = fold(envelope, RATE_HZ, period_s, 48)
    assert folded.sum() == pytest.approx(beats)
    assert folded[0] + folded[-1] == pytest.approx(beats)


def test_long_envelopes_fold_the_same_in_stretches(monkeypatch: pytest.MonkeyPatch) -> None:
    envelope = np.random.default_rng(1).random(50_000)
    whole = fold(envelope, RATE_HZ, 0.47, 64)
    monkeypatch.setattr(steady, "STRETCH", 4096)
    np.testing.assert_allclose(fold(envelope, RATE_HZ, 0.47, 64), whole, atol=3.0)
