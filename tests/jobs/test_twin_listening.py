"""Two files are laid on each other to the sample before they are compared."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest

from vinyl.core.likeness.residual import RATE_HZ, Mono, SpectraMeter, difference
from vinyl.core.twins.groups import LARGEST_DIFFERENCE, SURE_DIFFERENCE
from vinyl.jobs.twin_listening import compare

SILENCE_S, ROUGHLY_S = 0.4, 0.402


def _song() -> Mono:
    """Noise that swells twice a second."""
    time_s = np.arange(30 * RATE_HZ) / RATE_HZ
    noise = np.random.default_rng(7).standard_normal(len(time_s))
    song: Mono = (0.1 * noise * np.exp(-6 * (time_s % 0.5))).astype(np.float32)
    return song


def _blocks(samples: Mono, length: int) -> Iterator[Mono]:
    for start in range(0, len(samples), length):
        yield samples[start : start + length]


@pytest.mark.parametrize("length", [777, 1 << 18, 1 << 22])
def test_a_copy_that_begins_later_is_none_the_less_the_same(length: int) -> None:
    song = _song()
    later = np.concatenate([np.zeros(round(SILENCE_S * RATE_HZ), np.float32), song])
    assert compare(_blocks(song, length), _blocks(later, 50_000), ROUGHLY_S) < 0.1
    assert compare(_blocks(later, 50_000), _blocks(song, length), -ROUGHLY_S) < 0.1
    assert compare(_blocks(song, length), _blocks(later, 50_000), 0.0) >= 1.0, "farther off than is looked"


def test_what_only_one_has_in_the_end_is_heard_and_nothing_is_told_of_nothing() -> None:
    song = _song()
    voiced = song.copy()
    voiced[-6 * RATE_HZ :] += 0.05 * np.sin(np.arange(6 * RATE_HZ) * 0.2).astype(np.float32)
    assert compare([song], [voiced], 0.0) > 1.0
    assert compare([], [song], 0.0) == 0.0
    assert compare([song], [song], 60.0) == 0.0


def test_a_voice_that_the_music_hides_all_through_is_heard_by_its_tones() -> None:
    """It is no louder anywhere than an encoder's noise, but it is made of tones."""
    song, time_s = _song(), np.arange(30 * RATE_HZ) / RATE_HZ
    level = np.sqrt(np.mean(song**2))
    tones = sum(np.sin(2 * np.pi * hz * time_s) for hz in (220, 330, 445, 660, 890, 1320, 2640, 3500))
    voice = (0.08 * level * tones / 2).astype(np.float32)
    meter = SpectraMeter()
    meter.push(song, song + voice)
    assert 0.2 < difference(meter.finish()) < SURE_DIFFERENCE, "by loudness alone it could be an encoder"
    assert compare([song], [song + voice], 0.0) > LARGEST_DIFFERENCE
    assert compare([song], [song + 0.5 * voice], 0.0) == 1.0, "fainter still, it is left to the user"
    noise = np.random.default_rng(8).standard_normal(len(song)).astype(np.float32)
    assert (
        compare([song], [song + 0.3 * level * noise * np.sqrt(np.abs(song) / level)], 0.0) < SURE_DIFFERENCE
    )
    assert compare([song], [song + 0.03 * voice], 0.0) < SURE_DIFFERENCE, "far below all that is heard"
