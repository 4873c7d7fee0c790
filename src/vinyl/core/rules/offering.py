"""What is offered for a text in a search: what it means as a whole, how its end may go on, and what comes
near it if it means nothing.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from difflib import get_close_matches
from functools import cache

from vinyl.core.rules import lexicon
from vinyl.core.rules.conditions import AllOf, Condition, Names, Words, explain
from vinyl.core.rules.dates import MONTHS, NUMBER_WORDS, SEASONS, WEEKDAYS
from vinyl.core.rules.phrases import MOST_OFFERED, Known, limits
from vinyl.core.rules.reading import Reading, read
from vinyl.core.text import fold

LEAST_LETTERS = 4
LIKENESS = 0.8
WORD = re.compile(r"[^\W\d_]{4,}")


@dataclass(frozen=True, slots=True)
class Offer:
    """A limit that a text may be.

    Attributes:
        words: how it is said.
        condition: what it asks for; without one its words are to be gone on with.
        rest: what of the text does not belong to it, and is looked for as words.
        parts: the limits that it is made of, each with its words.
        order: fields to sort by, and whether downwards.
        is_sure: whether the text can hardly mean something else.
    """

    words: str
    condition: Condition | None
    rest: str = ""
    parts: tuple[tuple[str, Condition], ...] = ()
    order: tuple[tuple[str, bool], ...] = ()
    is_sure: bool = False


def offers(text: str, known: Known, names: Names) -> list[Offer]:
    """What a text may be, the likeliest first."""
    reading = read(text, known)
    found = _of_reading(reading, names) + _of_reading(read(text, known, other=True), names)
    found += [Offer(each.words, each.condition, each.rest) for each in limits(text, known)]
    near = _near(text, known, names) if reading.words or not reading.is_sure else []
    if near:
        # A word may be misspelt: what is left without it is no sure guess any more.
        found = [replace(each, is_sure=False) for each in (*found, *near)]
    return list({(each.words, each.rest): each for each in reversed(found)}.values())[::-1][:MOST_OFFERED]


def _of_reading(reading: Reading, names: Names) -> list[Offer]:
    whole = reading.condition
    parts = whole.parts if isinstance(whole, AllOf) else (whole,)
    asked = tuple(part for part in parts if part != Words(reading.words))
    if not asked and not reading.order:
        return []
    order = ", ".join(f"by {name}{', highest first' * down}" for name, down in reading.order)
    said = [(explain(part, names), part) for part in asked]
    words = ", ".join([*(each for each, _ in said), *filter(None, [order])])
    condition = asked[0] if len(asked) == 1 else AllOf(asked)
    return [Offer(words, condition, reading.words, tuple(said), reading.order, reading.is_sure)]


def _near(text: str, known: Known, names: Names) -> list[Offer]:
    """What the text would mean if words in it were spelt as those that are understood."""
    respelt = WORD.sub(lambda found: _nearest(fold(found[0])) or found[0], text)
    if fold(respelt) == fold(text):
        return []
    reading = read(respelt, known)
    return _of_reading(reading, names) if reading.is_sure and not reading.words else []


def _nearest(word: str) -> str | None:
    vocabulary = _vocabulary()
    close = () if word in vocabulary else get_close_matches(word, vocabulary, 1, LIKENESS)
    return next(iter(close), None)


@cache
def _vocabulary() -> tuple[str, ...]:
    """The words that are understood, but for short ones."""
    said = (
        *lexicon.NUMBER_NAMES, *lexicon.UNITS, *lexicon.COMPARATIVES, *lexicon.TEXT_NAMES, *lexicon.SAID,
        *lexicon.ADDED, *lexicon.PLAYED, *lexicon.FITS, *lexicon.SORTS, *lexicon.SIDES, *lexicon.NOT,
        *lexicon.AFTER_NUMBER, *lexicon.TIMES, *lexicon.DECADES, *lexicon.HOW_WORDS, *lexicon.AT_VENUE,
        *MONTHS, *WEEKDAYS, *SEASONS, *NUMBER_WORDS, "between", "times", "today", "yesterday", "last", "this",
    )  # fmt: skip
    return tuple(
        dict.fromkeys(each for words in said for each in words.split() if len(each) >= LEAST_LETTERS)
    )
