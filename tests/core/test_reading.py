"""What people type, and what each of it means: a table of phrasings, written before the grammar."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from pathlib import Path

from vinyl.core.rules.conditions import InList, Named, Tagged, TextField, explain
from vinyl.core.rules.phrases import Known
from vinyl.core.rules.reading import Reading, read
from vinyl.core.text import fold

PHRASINGS = Path(__file__).with_name("phrasings.txt")
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
    wrong = []
    for number, (phrase, _, meaning) in enumerate(lines):
        said = _said(read(phrase, KNOWN))
        if fold(said) != fold(meaning):
            wrong.append((number % 2, f"{phrase!r}: {said!r}, not {meaning!r}"))
    print("\n".join(text for half, text in wrong if half == 0))
    print(len(lines), [sum(half == each for half, _ in wrong) for each in (0, 1)])
    assert len(wrong) <= len(lines) // 30
