"""Filters as matrix products give what sample by sample gives, however the signal is cut."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, firwin, sosfilt

from vinyl.core.filtering import BlockFilter, Decimator
from vinyl.core.loudness.bs1770 import k_weighting

LENGTH = 6000
CUTS = st.lists(st.integers(0, LENGTH), max_size=5).map(sorted)


def noise(channels: int) -> np.ndarray:
    return (np.random.default_rng(5).standard_normal((channels, LENGTH)) * 0.3 + 0.2).astype(np.float32)


@pytest.mark.parametrize(
    "sections", [k_weighting(44100), k_weighting(8000), butter(2, 150.0, fs=44100, output="sos")]
)
@settings(max_examples=20, deadline=None)
@given(cuts=CUTS)
def test_a_block_filter_is_the_filter(sections: np.ndarray, cuts: list[int]) -> None:
    signal = noise(2)
    filtered = BlockFilter(sections, 2)
    found = np.concatenate(
        [filtered.push(signal[:, start:stop]) for start, stop in pairwise([0, *cuts, LENGTH])], axis=1
    )
    np.testing.assert_allclose(found, sosfilt(sections, signal.astype(np.float64)), atol=2e-5)


@settings(max_examples=20, deadline=None)
@given(cuts=CUTS, factor=st.sampled_from([2, 4]))
def test_a_decimator_keeps_the_samples_of_the_filtered_signal_without_delay(
    cuts: list[int], factor: int
) -> None:
    signal, taps = noise(1)[0], 81
    decimator = Decimator(factor, taps)
    parts = [decimator.push(signal[start:stop]) for start, stop in pairwise([0, *cuts, LENGTH])]
    found = np.concatenate([*parts, decimator.finish()])[: LENGTH // factor]
    expected = np.convolve(signal.astype(np.float64), firwin(taps, 1.0 / factor), mode="same")[::factor]
    np.testing.assert_allclose(found, expected, atol=1e-5)
