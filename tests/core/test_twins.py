"""Twins: near descriptors without comparing all with all, names of copies, words in common, groups."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from numpy.typing import NDArray

from vinyl.core.likeness.compare import Match, Relation, compare
from vinyl.core.likeness.descriptor import SIZE
from vinyl.core.twins.alignment import Alignment
from vinyl.core.twins.groups import Pair, make_groups
from vinyl.core.twins.names import file_key, song_key
from vinyl.core.twins.neighbours import FEW, NEAREST, near_pairs
from vinyl.core.twins.relating import Sound, relate, stretched
from vinyl.core.twins.words import distinct_words, is_worth_a_look

FRAMES_PER_S = 44100 / 4 / 1024


@pytest.mark.parametrize("count", [FEW // 2, 2 * FEW])
def test_a_copy_is_among_the_nearest_whatever_the_size_of_the_library(count: int) -> None:
    random = np.random.default_rng(7)
    kinds = random.standard_normal((40, SIZE)).astype(np.float32)
    tracks = kinds[random.integers(0, 40, count)] + 0.4 * random.standard_normal((count, SIZE))
    copied = random.choice(count, 100, replace=False)
    copies = tracks[copied] + 0.1 * random.standard_normal((100, SIZE))
    pairs = near_pairs(np.concatenate([tracks, copies]).astype(np.float32))
    found = set(map(tuple, pairs.tolist()))
    assert {(track, count + place) for place, track in enumerate(copied.tolist())} <= found
    assert all(first < second for first, second in found) and len(found) == len(pairs), "each once"
    assert len(pairs) <= (count + 100) * NEAREST, "not all with all"


@pytest.mark.parametrize("count", [0, 1, 2])
def test_of_few_tracks_there_are_few_pairs(count: int) -> None:
    alike = np.ones((count, SIZE), np.float32)
    assert near_pairs(alike).tolist() == ([[0, 1]] if count == 2 else [])


@pytest.mark.parametrize(
    ("name", "other"),
    [
        ("Tide.flac", "Tide 1.mp3"),
        ("Tide.mp3", "Tide (2).mp3"),
        ("Tide.mp3", "copy of Tide.mp3"),
        ("Tide.wav", "Tide - Copy (3).wav"),
        ("Tide.wav", "tide copy 2.wav"),
        ("Halden Pier - Tide.mp3", "Halden Pier - Tide [320].mp3"),
        ("Tide.mp3", "Tide (320 kbps).mp3"),
        ("Tide.mp3", "Tide (download) (1).mp3"),
        ("Straße.mp3", "STRASSE 2.mp3"),
    ],
)
def test_names_of_copies_are_the_names_of_what_was_copied(name: str, other: str) -> None:
    assert file_key(name) == file_key(other)


@pytest.mark.parametrize(
    ("name", "other"), [("Tide.mp3", "Tide (dub).mp3"), ("Tide.mp3", "Tides.mp3"), ("1999.mp3", "2000.mp3")]
)
def test_other_names_stay_other_names(name: str, other: str) -> None:
    assert file_key(name) != file_key(other)


@given(st.text(max_size=40))
def test_any_name_has_a_key_that_is_its_own(name: str) -> None:
    key = file_key(name)
    assume(key)
    assert file_key(f"{key}.mp3") == key


def test_a_song_is_one_song_however_it_is_written_and_none_without_a_name() -> None:
    assert song_key("Halden  Pier", "Café - del Muelle!") == song_key("halden pier", "Cafe del muelle")
    assert song_key("Halden Pier", "Tide") != song_key("Halden Pier", "Tide (dub)")
    assert song_key("", "Tide") == song_key("Halden Pier", "") == song_key("Halden Pier", "?!") == ""


def test_copies_have_words_in_common_and_strangers_too_few() -> None:
    random = np.random.default_rng(5)
    first, other = random.integers(1, 2**32, (2, 1800), dtype=np.uint32)
    heard_again = np.where(
        random.random(1800) < 0.04, first, random.integers(1, 2**32, 1800, dtype=np.uint32)
    )
    words = distinct_words(first)
    assert is_worth_a_look(words, distinct_words(heard_again))
    by_chance = other.copy()
    by_chance[:7] = first[:7]
    assert not is_worth_a_look(words, distinct_words(by_chance))
    assert len(distinct_words(np.zeros(900, np.uint32))) == 0
    assert not is_worth_a_look(np.zeros(0, np.uint32), np.zeros(0, np.uint32)), "silence is like nothing"


def pair(first: int, second: int, relation: Relation) -> Pair:
    return Pair(first, second, frozenset({"sound"}), Match(relation, 0.0, 1.0, 0.05))


RELATIONS = st.sampled_from(("same", "edit", "same backing", "different"))
PAIRS = st.lists(
    st.tuples(st.integers(1, 12), st.integers(1, 12), RELATIONS).filter(lambda each: each[0] < each[1]),
    unique_by=lambda each: each[:2],
    max_size=25,
)


@given(PAIRS)
def test_groups_hold_each_track_once_with_all_that_it_hangs_together_with(
    told: list[tuple[int, int, Relation]],
) -> None:
    groups = make_groups([pair(*each) for each in told])
    of = {track_id: place for place, group in enumerate(groups) for track_id in group.track_ids}
    assert len(of) == sum(len(group.track_ids) for group in groups), "each in one group"
    linked = [each for each in told if each[2] != "different"]
    assert of.keys() == {track_id for first, second, _ in linked for track_id in (first, second)}
    for first, second, relation in linked:
        together = of[first] == of[second]
        assert together if relation == "same" else True
        if not together:
            group, other = groups[of[first]], groups[of[second]]
            assert set(group.versions) & set(other.track_ids) and set(other.versions) & set(group.track_ids)
    for group in groups:
        assert all({each.first, each.second} <= set(group.track_ids) for each in group.pairs)
        assert len(group.pairs) >= len(group.track_ids) - 1, "nobody is there without being named"
    assert [len(group.track_ids) for group in groups] == sorted(
        (len(group.track_ids) for group in groups), reverse=True
    )


def test_how_alike_two_are_goes_by_how_much_is_found_and_how_well() -> None:
    assert Pair(1, 2, frozenset({"sound"}), Match("same", 0.0, 1.0, 0.0)).likeness == 1.0
    assert Pair(1, 2, frozenset({"sound"}), Match("edit", 0.0, 0.5, 0.25)).likeness == 0.25


def test_the_neighbours_of_a_few_are_those_that_all_together_have() -> None:
    random = np.random.default_rng(3)
    tracks = random.standard_normal((2 * FEW, SIZE)).astype(np.float32)
    tracks[-50:] = tracks[:50] + 0.1 * random.standard_normal((50, SIZE))
    new = np.arange(len(tracks) - 50, len(tracks))
    found = set(map(tuple, near_pairs(tracks, new).tolist()))
    assert found == set(map(tuple, near_pairs(tracks).tolist()))
    assert near_pairs(tracks, np.array([], np.int64)).shape == (0, 2)


def _sound(words: NDArray[np.uint32], attacks_s: NDArray[np.float64] | None) -> Sound:
    return Sound(words, attacks_s)


def _words(count: int, seed: int = 1) -> NDArray[np.uint32]:
    """Words that go over into each other slowly, as those of music do."""
    random, bits = np.random.default_rng(seed), np.zeros((count, 32), bool)
    for frame in range(1, count):
        bits[frame] = bits[frame - 1] ^ (random.random(32) < 0.2)
    return (bits << np.arange(32, dtype=np.uint32)).sum(axis=1, dtype=np.uint32)


@pytest.mark.parametrize("speed", [1.0, 1 / 1.005, 1.003])
def test_a_copy_at_another_speed_is_one_recording_with_its_speed(speed: float) -> None:
    words, random = _words(1600), np.random.default_rng(4)
    attacks_s = np.sort(random.uniform(0, 1600 / FRAMES_PER_S, 700))
    copy = _sound(stretched(words, speed), speed * attacks_s)
    found = relate(_sound(words, attacks_s), copy, FRAMES_PER_S)
    assert found.match.relation == "same" and found.alignment is not None
    assert found.alignment.speed == pytest.approx(speed, abs=2e-5)
    assert found.alignment.there(90.0) == pytest.approx(90.0 * speed, abs=0.002)
    without = relate(_sound(words, attacks_s), _sound(copy.fingerprint, None), FRAMES_PER_S)
    assert without.match.relation == "same" and without.alignment is None


def test_an_edit_stays_an_edit_and_strangers_strangers_at_every_speed() -> None:
    words = _words(1600)
    cut = np.concatenate([words[:600], words[900:]])
    for other, relation in ((cut, "edit"), (words[400:], "edit"), (_words(1600, seed=9), "different")):
        found = relate(
            _sound(words, np.arange(0, 140, 0.4)), _sound(other, np.arange(0, 140, 0.4)), FRAMES_PER_S
        )
        assert (found.match.relation, found.alignment) == (relation, None)


def test_an_edit_says_what_it_leaves_out() -> None:
    words = _words(1600)
    middle = compare(words, np.concatenate([words[:600], words[900:]]), FRAMES_PER_S).missing_s
    front = compare(words[400:], words, FRAMES_PER_S).missing_s
    for found, (start, end) in ((middle, (600, 900)), (front, (0, 400))):
        (part,) = found
        assert np.allclose(part, np.array([start, end]) / FRAMES_PER_S, atol=3.1)
    assert compare(words, words, FRAMES_PER_S).missing_s == ()
    still = np.zeros(120, np.uint32)
    quiet = np.concatenate([still, words, still])
    (part,) = compare(words[400:], quiet, FRAMES_PER_S).missing_s
    assert part[0] > 100 / FRAMES_PER_S, "silence at the ends is nothing that was cut out"
    loop = np.tile(_words(160), 10)
    song = np.concatenate([_words(400, seed=4), loop, _words(400, seed=5)])
    (part,) = compare(np.concatenate([song[:700], song[1180:]]), song, FRAMES_PER_S).missing_s
    assert part[1] - part[0] == pytest.approx(480 / FRAMES_PER_S, abs=3.1), (
        "of a loop any repeat may be missing"
    )


def test_repeats_do_not_hide_where_a_cut_goes_on() -> None:
    turn = np.tile(_words(64, seed=6), 16)
    song = np.concatenate([turn, _words(800, seed=7)])
    cut = np.concatenate([song[:1000], song[1400:]])
    found = relate(Sound(cut, None), Sound(song, None), FRAMES_PER_S).match
    assert (found.relation, found.covered) == ("edit", 1.0)
    other = np.concatenate([turn, _words(400, seed=8)])
    shared = relate(Sound(other, None), Sound(song, None), FRAMES_PER_S).match
    assert shared.relation != "edit", "a loop in common alone is none"


@pytest.mark.parametrize(
    ("told", "sure"),
    [
        ({}, True),
        ({"unevenness": 0.95}, False),
        ({"covered": 0.6}, False),
        ({"relation": "edit"}, False),
        ({"speed": 0.995}, False),
        ({"speed": None}, False),
        ({"difference": None}, False),
        ({"difference": 0.8}, False),
    ],
)
def test_a_pair_is_sure_only_if_all_speaks_for_it(told: dict[str, Any], sure: bool) -> None:
    usual: dict[str, Any] = {"relation": "same", "covered": 1.0, "unevenness": 0.4}
    usual.update({"speed": 1.0, "difference": 0.7})
    all_told = {**usual, **told}
    speed, difference = all_told.pop("speed"), all_told.pop("difference")
    match = Match(offset_s=0.0, bit_error=0.05, **all_told)
    line = None if speed is None else Alignment(speed, 0.0, 0.0)
    assert Pair(1, 2, frozenset({"sound"}), match, line, difference).is_sure is sure
