"""Keys: their names, their arithmetic, and hearing them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from tests.signals import RATE_HZ, chord_tone, drum_loop, drums_on
from vinyl.core.analysis import analyse
from vinyl.core.tonal.change import in_first_key
from vinyl.core.tonal.chroma import Chroma
from vinyl.core.tonal.estimate import estimate_key
from vinyl.core.tonal.key import NOTATIONS, Key, Notation, after_tempo_change, fitting_keys, parse_key

KEYS = st.builds(Key, st.integers(0, 11), st.sampled_from(("major", "minor")))


@given(KEYS, st.sampled_from(NOTATIONS))
def test_every_notation_is_read_back(key: Key, notation: Notation) -> None:
    assert parse_key(key.written(notation)) == key
    assert parse_key(f" {key.written(notation)} ") == key


def test_names_found_in_files() -> None:
    same = ("A minor", "Am", "a min", "A-moll", "1m", "8A", "08a")
    assert {parse_key(text) for text in same} == {Key(9, "minor")}
    assert parse_key("C♯") == parse_key("Db major") == parse_key("C#maj")
    for wrong in ("H minor", "13A", "0m", "", "minor", "A dorian"):
        with pytest.raises(ValueError, match="is not a key"):
            parse_key(wrong)


@given(KEYS)
def test_neighbours_share_six_notes_and_relatives_all(key: Key) -> None:
    def notes(of: Key) -> set[int]:
        steps = (0, 2, 4, 5, 7, 9, 11) if of.mode == "major" else (0, 2, 3, 5, 7, 8, 10)
        return {(of.tonic + step) % 12 for step in steps}

    same, up, down, relative = fitting_keys(key)
    assert same == key and relative.relative == key and key.parallel.parallel == key
    assert notes(relative) == notes(key)
    assert len(notes(up) & notes(key)) == len(notes(down) & notes(key)) == 6
    assert up.fifths == (key.fifths + 1) % 12 and relative.fifths == key.fifths


def test_what_a_tempo_change_does_to_a_key() -> None:
    key, cents = after_tempo_change(parse_key("A minor"), 100 * (2 ** (1 / 12) - 1))
    assert str(key) == "Bb minor" and cents == pytest.approx(0.0, abs=1e-6)
    key, cents = after_tempo_change(parse_key("A minor"), 2.0)
    assert str(key) == "A minor" and cents == pytest.approx(34.28, abs=0.01)


def _song(roots: tuple[int, ...], bars: int, tune: float = 0.0, drums: bool = True) -> NDArray[np.float32]:
    """Minor triads over a bass, on drums."""
    chords = [chord_tone(tuple(r + s + tune for s in (-12, 0, 3, 7)), 2.0) for r in roots]  # type: ignore[arg-type]
    music = 0.3 * np.concatenate([chords[bar % len(chords)] for bar in range(bars)])
    beat = drums_on(np.arange(bars * 4) * 0.5, bars * 2.0, chords=False)[0]
    mono = (music + (0.5 * beat[: len(music)] if drums else 0.0)).astype(np.float32)
    return np.stack([mono, mono])


@pytest.mark.parametrize("cents", [-35, 0, 28])
def test_a_detuned_master_keeps_its_key(cents: int) -> None:
    found = analyse(_song((57, 50, 52, 57), 24, cents / 100)).key
    assert str(found.key) == "A minor"
    assert found.tuning_cents == pytest.approx(cents, abs=8)


def test_drums_alone_have_no_key() -> None:
    random = np.random.default_rng(5)
    found = analyse(drums_on(np.arange(120) * 0.5, 60.0, chords=False)).key
    assert found.key is None and found.confidence == 0.0
    noise = 0.1 * random.standard_normal((2, 20 * RATE_HZ)).astype(np.float32)
    assert analyse(noise).key.key is None


def _loop(chords: tuple[tuple[int, int], ...], bars: int) -> NDArray[np.float32]:
    """Two-bar chords of (root, third) over their bass on drums, at 120 bpm."""
    tones = [chord_tone((root - 12, root, root + third, root + 7), 4.0) for root, third in chords]
    music = 0.3 * np.concatenate([tones[bar % len(tones)] for bar in range(bars // 2)])
    beat = drums_on(np.arange(bars * 4) * 0.5, bars * 2.0, chords=False)[0]
    mono = (music + 0.5 * beat[: len(music)]).astype(np.float32)
    return np.stack([mono, mono])


@pytest.mark.parametrize(("start", "key"), [(0, "A major"), (1, "D major")])
def test_the_same_chords_are_in_the_key_on_which_their_phrases_begin(start: int, key: str) -> None:
    chords = ((57, 4), (62, 4), (55, 4), (62, 4))
    found = analyse(_loop(chords[start:] + chords[:start], 48)).key
    assert str(found.key) == key and found.confidence > 0.6


def test_what_sounds_over_the_tonic_tells_major_from_minor() -> None:
    found = {third: analyse(_loop(((57, third), (62, 4), (57, third), (64, 4)), 48)).key for third in (3, 4)}
    assert {third: str(heard.key) for third, heard in found.items()} == {3: "A minor", 4: "A major"}


@given(st.integers(0, 11), st.floats(0.3, 0.7), st.integers(0, 10_000))
def test_music_that_comes_back_transposed_has_changed_its_key(
    semitones: int, share: float, seed: int
) -> None:
    random = np.random.default_rng(seed)
    scale = np.roll([5.0, 0.2, 3, 0.1, 4, 3, 0.1, 4.5, 0.2, 2, 0.1, 1.5], random.integers(12))
    frames = (scale * random.uniform(0.8, 1.2, (1400, 12))).astype(np.float32)
    at = round(share * len(frames))
    moved = np.vstack([frames[:at], np.roll(frames[at:], semitones, axis=1)])
    chroma = Chroma(moved, moved, 10.0, 0.0, 0.5)
    settled, change = in_first_key(chroma)
    if semitones == 0:
        assert change is None and settled is chroma
    else:
        assert change is not None and change.semitones == semitones
        assert change.time_s == pytest.approx(at / 10.0, abs=6.0)


C_MAJOR = np.array([6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88])
WHOLE_TONES = np.tile([1.0, 0.0], 6)


@pytest.mark.parametrize(
    ("pattern", "contrast", "key"),
    [(C_MAJOR, 0.3, "C major"), (C_MAJOR, 0.1, None), (WHOLE_TONES, 0.3, None)],
)
def test_there_is_a_key_where_tones_differ_as_a_key_asks(
    pattern: NDArray[np.float64], contrast: float, key: str | None
) -> None:
    strengths = 1.0 + contrast * (pattern - pattern.mean()) / pattern.std()
    frames = np.tile(strengths.astype(np.float32), (1000, 1))
    found = estimate_key(Chroma(frames, frames, 10.0, 0.0, 0.9), None, 1.0).key
    assert (None if found is None else str(found)) == key


def test_no_part_of_a_track_decides_its_key_alone() -> None:
    """A short beginning with other chords leaves the key, and silence the confidence too."""
    music = np.tile((C_MAJOR - 2).clip(0).astype(np.float32), (900, 1))
    before = {"other": np.roll(music, 6, axis=1)[:150], "silence": 0 * music[:700]}
    heard = {}
    for name, frames in {**before, "nothing": music[:0]}.items():
        joined = np.vstack([frames, music])
        heard[name] = estimate_key(Chroma(joined, joined, 10.0, 0.0, 0.9), None, 1.0)
    assert {str(found.key) for found in heard.values()} == {"C major"}
    assert heard["silence"].confidence == pytest.approx(heard["nothing"].confidence, abs=0.05)


def test_a_change_of_key_is_found_with_its_place() -> None:
    samples = np.hstack([_song((57, 50, 52, 57), 24), _song((58, 51, 53, 58), 24)])
    found = analyse(samples).key
    assert (str(found.key), str(found.second)) == ("A minor", "Bb minor")
    assert found.second_from_s == pytest.approx(48.0, abs=6.0)
    assert analyse(drum_loop(120.0, 0.0, 80.0)).key.second is None


def test_music_without_a_sure_beat_is_in_the_key_it_ends_on() -> None:
    """D and A major chords alike: only the end tells which is the tonic, and only where the beat does not."""
    frames = np.zeros((600, 12), np.float32)
    for start, root in enumerate((2, 9) * 3):
        frames[100 * start : 100 * start + 100, [root, (root + 4) % 12, (root + 7) % 12]] = 1.0
    ends_on_a, ends_on_d = (Chroma(part, part, 10.0, 0.0, 0.5) for part in (frames, frames[::-1].copy()))
    unsure = [str(estimate_key(chroma, None, 1.0).key) for chroma in (ends_on_a, ends_on_d)]
    assert unsure == ["A major", "D major"]
    sure = {str(estimate_key(chroma, None, 0.0).key) for chroma in (ends_on_a, ends_on_d)}
    assert len(sure) == 1, "with a sure beat the end says nothing"
