"""Numbers as people say them: one, from one to another, over or under one, about one; with their units."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from vinyl.core.rules.conditions import WHOLE_BPM, Between, NumberField
from vinyl.core.rules.dates import NUMBER_WORDS
from vinyl.core.rules.lexicon import AFTER_NUMBER, COUNTED, SIDES, UNITS, Side

NUMBER = re.compile(r"-?\d{1,7}(?:[.:]\d+)?")
NEAR_SHARE = 0.03
# A length without a unit is in minutes up to so many.
MOST_MINUTES = 30
JOINTS = ("to", "-", "–", "and")


@dataclass(frozen=True, slots=True)
class Number:
    """A number as it was said, with the field that its unit is of, if it has one."""

    value: float
    field: NumberField | None = None


@dataclass(frozen=True, slots=True)
class Range:
    """What is said of numbers: the first, the last if there are two, or on which side of the first."""

    first: Number
    last: Number | None = None
    side: Side | None = None

    @property
    def field(self) -> NumberField | None:
        """The field that a unit has named."""
        return (self.last and self.last.field) or self.first.field

    def of(self, field: NumberField) -> Between:
        """The limit that it is for a field."""
        first = _in_field(self.first, self.field, field)
        if self.last is not None:
            return Between(field, *sorted((first, _in_field(self.last, self.field, field))))
        step = 1 if field in COUNTED else 0
        match self.side:
            case "low" | "above":
                return Between(field, first + step * (self.side == "above"), None)
            case "high" | "below":
                return Between(field, None, first - step * (self.side == "below"))
            case "about":
                near = NEAR_SHARE * abs(first)
                return Between(field, round(first - near, 2), round(first + near, 2))
        top = first + WHOLE_BPM if field == "bpm" and first.is_integer() else first
        return Between(field, first, top)


def read_ranges(words: Sequence[str]) -> Iterator[tuple[int, Range]]:
    """The ranges that words begin with, and how many they are."""
    lead = 1 if words[:1] and words[0] in ("between", "from") else 0
    for count, first in read_numbers(words[lead:]):
        at = lead + count
        if at < len(words) and words[at] in JOINTS and (lead or words[at] != "and"):
            for more, last in read_numbers(words[at + 1 :]):
                yield at + 1 + more, Range(first, last)
        if lead:
            continue
        yield at, Range(first)
        for said, side in AFTER_NUMBER.items():
            told = said.split()
            if list(words[at : at + len(told)]) == told:
                yield from _with_unit(words, at + len(told), first, side)
    for said, side in SIDES.items():
        told = said.split()
        if list(words[: len(told)]) == told:
            for count, number in read_numbers(words[len(told) :]):
                yield len(told) + count, Range(number, side=side)


def _with_unit(words: Sequence[str], at: int, first: Number, side: Side) -> Iterator[tuple[int, Range]]:
    """As in "4 or more stars"."""
    yield at, Range(first, side=side)
    if at < len(words) and words[at] in UNITS:
        field, times = UNITS[words[at]]
        yield at + 1, Range(Number(first.value * times, field), side=side)


def read_numbers(words: Sequence[str]) -> Iterator[tuple[int, Number]]:
    """The numbers that words begin with: without a unit, and with it."""
    if not words:
        return
    if NUMBER.fullmatch(words[0]):
        minutes, colon, seconds = words[0].partition(":")
        value = 60.0 * float(minutes) + float(seconds) if colon else float(words[0])
        number = Number(value, "duration_s" if colon else None)
    elif words[0] in NUMBER_WORDS:
        number = Number(float(NUMBER_WORDS[words[0]]))
    else:
        return
    yield 1, number
    if len(words) > 1 and words[1] in UNITS and number.field is None:
        field, times = UNITS[words[1]]
        yield 2, Number(number.value * times, field)


def _in_field(number: Number, unit: NumberField | None, field: NumberField) -> float:
    """A number in what a field is kept in; one without a unit has that of the other of its range."""
    if number.field is not None:
        return number.value
    if field == "bit_rate":
        return 1000.0 * number.value
    if field == "duration_s" and number.value < MOST_MINUTES and unit in (None, "duration_s"):
        return 60.0 * number.value
    return number.value
