"""What people type, and what each of it means: a table of phrasings, written before the grammar."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from vinyl.core.rules.conditions import Between, InList, Named, Tagged, TextField, Words, explain, validate
from vinyl.core.rules.offering import offers
from vinyl.core.rules.phrases import Known
from vinyl.core.rules.reading import Reading, read
from vinyl.core.text import fold

PHRASINGS = Path(__file__).with_name("phrasings.txt")
VOCABULARY = sorted({word for line in PHRASINGS.read_text().splitlines() for word in line.split()})
TEXTS: dict[TextField, Sequence[str]] = {
    "genre": ("House", "Deep House", "Techno", "Dub Techno", "Disco", "Drum & Bass"),
    "artist": ("Kelp Union", "Halden Pier", "Osk & Maren"),
    "label": ("Tidal Club", "Quay Records"),
    "colour": ("violet", "ochre"),
    "codec": ("mp3", "flac"),
}
TAGS = {3: "Vocal", 4: "Piano", 7: "Peak time"}
LISTS = {5: "Wedding", 6: "Warm hours"}
VENUES = {1: "The Slipway", 2: "Harbour Hall"}
KNOWN = Known(
    tags=list(TAGS.items()),
    lists=list(LISTS.items()),
    backings=[],
    texts=lambda field, begun: [t for t in TEXTS.get(field, ()) if fold(t).startswith(fold(begun))],
    exact=lambda field, asked: [t for t in TEXTS.get(field, ()) if fold(t) in asked],
    today=date(2026, 11, 30),
    venues=list(VENUES.items()),
)


def _name(named: Named) -> str | None:
    match named:
        case Tagged(number):
            return TAGS[number]
        case InList(number):
            return LISTS[number]
        case _:
            return VENUES.get(named.venue_id or 0) if not hasattr(named, "backing_id") else None


def _said(reading: Reading) -> str:
    orders = "".join(f" | by {name}{' down' * down}" for name, down in reading.order)
    return explain(reading.condition, _name) + orders


def test_what_people_type_means_what_they_mean() -> None:
    lines = [line.partition(" => ") for line in PHRASINGS.read_text().splitlines()]
    wrong = [
        f"{phrase!r}: {said!r}, not {meaning!r}"
        for phrase, _, meaning in lines
        if fold(said := _said(read(phrase, KNOWN))) != fold(meaning)
    ]
    assert len(lines) >= 300 and wrong == []


def test_what_can_mean_two_things_is_offered_as_both_and_what_is_misspelt_as_what_comes_near() -> None:
    both = replace(KNOWN, lists=[*KNOWN.lists, (8, "House")])
    name = lambda named: "House" if named == InList(8) else _name(named)  # noqa: E731
    assert [each.words for each in offers("house", both, name)][:2] == ["style House", "in crate House"]
    near = offers("tempoo over 150", KNOWN, _name)
    assert near[-1].condition == Between("bpm", 150, None), "“over” is no misspelt cover"
    near = offers("tempoo 120 to 126", KNOWN, _name)
    assert (near[-1].condition, near[-1].rest) == (Between("bpm", 120, 126), "")
    assert not any(each.is_sure for each in near), "nobody knows what the first word is"
    assert offers("velvet harbour", KNOWN, _name) == []
    whole = offers("velvet house over 120 bpm", KNOWN, _name)[0]
    assert (whole.rest, [words for words, _ in whole.parts]) == ("velvet", ["style House", "tempo from 120"])


def test_only_what_can_hardly_be_a_title_is_sure() -> None:
    sure = {text: read(text, KNOWN).is_sure for text in ("house", "124", "missing", "Wedding", "salt", "Am")}
    assert [text for text, is_sure in sure.items() if is_sure] == []
    assert read("by the water", KNOWN).condition == Words("by the water")
    assert explain(read("not " * 40 + "explicit", KNOWN).condition) == "explicit"
    assert read(long := " ".join(["120 bpm"] * 61), KNOWN).condition == Words(long), "nothing is cut off"
    assert all(read(text, KNOWN).is_sure for text in ("house 120 to 126", "over 124", "no cues", "key 8A"))


@settings(max_examples=300, deadline=None)
@given(st.lists(st.sampled_from(VOCABULARY), max_size=14).map(" ".join) | st.text(max_size=60))
def test_any_text_means_something_that_makes_sense(text: str) -> None:
    reading = read(text, KNOWN)
    validate(reading.condition)
    assert explain(reading.condition, _name)
    for each in offers(text, KNOWN, _name):
        assert each.words
