"""What people mean by a search in plain words: limits, joined by and, or and not, with an order.

A small grammar. A text is read from the left: at each word all forms of a limit are tried and the longest is
taken; words that belong to none are looked for as words. Limits hold together, unless an "or" stands between
them; a list of one kind that ends in "or" asks for any of it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from vinyl.core.rules import lexicon
from vinyl.core.rules.conditions import (
    Added,
    AllOf,
    AnyOf,
    Between,
    Condition,
    How,
    InList,
    KeyIs,
    LastPlayed,
    LastPlayedAt,
    Lately,
    NeverAt,
    NoneOf,
    OverBacking,
    PlayedAt,
    Tagged,
    TextField,
    TextIs,
    Words,
    simplified,
    subject,
)
from vinyl.core.rules.dates import Span, read_span
from vinyl.core.rules.phrases import Known
from vinyl.core.rules.ranges import Range, read_ranges
from vinyl.core.text import fold
from vinyl.core.tonal.key import parse_key

MOST_NAME_WORDS = 7
MOST_PIECES = 60
LEAST_BPM, MOST_BPM = 30, 300
FIRST_YEAR, LAST_YEAR = 1900, 2099
PIECES = re.compile(
    r'"[^"]*"|\d{4}-\d{2}(?:-\d{2})?(?!\d)|(?:\d{4}|\d{2})s\b|(?<![\w.])-?\d+(?:[.:]\d+)?(?=bpm\b|\D|$)(?![a-z]\b)'
    r"|\d+(?:[.:]\d+)?(?=bpm|min|kbps)|>=|<=|[<>=≥≤~+,:]|–|-(?=\s*\d)|[^\s,:<>=≥≤~+\"]+"
)
DECADE = re.compile(r"(\d{4}|\d{2})s")
# A key by itself says its mode: a letter alone is a word.
KEY = re.compile(r"(?:0?[1-9]|1[0-2])[abdm]|[a-g][#♯♭b]?\s?(?:m|min|minor|maj|major|moll|dur)")
AND, OR = ("and", "but", ","), "or"
# What stands around limits and asks for nothing.
FILLERS = (
    "the",
    "all",
    "tracks",
    "songs",
    "music",
    "something",
    "with",
    "that",
    "are",
    "is",
    "a",
    "any",
    "first",
    "only",
    "just",
)
Link = Literal["", ",", "and", "or"]


@dataclass(frozen=True, slots=True)
class Reading:
    """What a text means.

    Attributes:
        order: fields to sort by, and whether downwards.
        words: those that belong to no limit; the condition asks for them too.
        is_sure: whether it can hardly mean something else. Names, numbers and single words that stand alone
            may as well be words of a title.
    """

    condition: Condition
    order: tuple[tuple[str, bool], ...] = ()
    words: str = ""
    is_sure: bool = False


@dataclass(frozen=True, slots=True)
class _Found:
    """A limit or an order, and how many pieces it is."""

    count: int
    condition: Condition | None = None
    order: tuple[str, bool] | None = None
    is_bare: bool = False


def read(text: str, known: Known, other: bool = False) -> Reading:
    """What a text means, as far as it is understood; what is not is looked for as words.

    Args:
        other: whether names that several things have stand for the less likely of them.
    """
    reader = _Reader(text, known, other)
    if reader.count > MOST_PIECES:
        return Reading(Words(text.strip()), (), text.strip())
    joined, order = _Joined(), list[tuple[str, bool]]()
    at, link = 0, ""
    while at < reader.count:
        said = reader.words[at]
        found = reader.limit(at)
        if found is not None:
            joined.is_sure |= not found.is_bare
            if found.condition is not None:
                joined.add(link, found.condition)
            if found.order is not None:
                order.append(found.order)
            at, link = at + found.count, ""
        elif said in AND or said == OR:
            at, link = at + 1, OR if said == OR else link or ("," if said == "," else "and")
        else:
            joined.loose(reader.piece(at))
            at, link = at + 1, ""
    return joined.reading(text, tuple(order))


class _Joined:
    """Limits as they come, grouped by what links them."""

    def __init__(self) -> None:
        self._groups: list[tuple[str, list[Condition]]] = []
        self._loose: list[str] = []
        self.is_sure = False

    def add(self, link: str, condition: Condition) -> None:
        """A limit, linked to the one before."""
        if link != OR or not self._groups:
            self._groups.append((link, [condition]))
            return
        self._groups[-1][1].append(condition)
        # "House, disco or techno": what stands before a comma is one more of the same.
        while len(self._groups) > 1 and self._groups[-1][0] == "," and self._are_alike():
            _, last = self._groups.pop()
            self._groups[-1][1].extend(last)

    def _are_alike(self) -> bool:
        (_, first), (_, second) = self._groups[-2:]
        return len({subject(each) for each in (*first, *second)}) == 1

    def loose(self, piece: str) -> None:
        """A word that belongs to no limit."""
        self._loose.append(piece)

    def reading(self, text: str, order: tuple[tuple[str, bool], ...]) -> Reading:
        """All of it."""
        if not self._groups and not order:
            return Reading(Words(text.strip()), (), text.strip())
        words = " ".join(each for each in self._loose if fold(each) not in FILLERS)
        parts: list[Condition] = [AnyOf(tuple(each)) for _, each in self._groups]
        parts += [Words(words)] if words else []
        return Reading(simplified(AllOf(tuple(parts))), order, words, self.is_sure)


class _Reader:
    """The pieces of a text, and what may begin at each."""

    def __init__(self, text: str, known: Known, other: bool) -> None:
        self._text, self._known, self._other = text, known, other
        self._spans = [each.span() for each in PIECES.finditer(text)]
        self.words = [fold(text[start:end]) for start, end in self._spans]
        self.count = len(self.words)
        self._names = _names_in(self._grams(), known)
        self._limits: dict[int, _Found | None] = {}

    def piece(self, at: int, end: int | None = None) -> str:
        """The text of a piece, or of several."""
        return self._text[self._spans[at][0] : self._spans[end - 1 if end else at][1]]

    def limit(self, at: int) -> _Found | None:
        """The longest limit or order that begins at a piece; of two as long the first form of those below."""
        if at not in self._limits:
            self._limits[at] = self._longest(at)
        return self._limits[at]

    def _longest(self, at: int) -> _Found | None:
        forms = (
            self._said, self._quoted, self._played_at, self._denied, self._order, self._when, self._key,
            self._often, self._number, self._decade, self._text_field, self._within, self._named,
        )  # fmt: skip
        found = [each for form in forms for each in form(at) if each.count > 0]
        return max(found, key=lambda each: each.count, default=None)

    def _grams(self) -> dict[str, list[tuple[int, int]]]:
        """All that a name may be, with where it stands."""
        found: dict[str, list[tuple[int, int]]] = {}
        for at in range(self.count):
            for end in range(at + 1, min(at + MOST_NAME_WORDS, self.count) + 1):
                found.setdefault(fold(self.piece(at, end)), []).append((at, end))
        return found

    def _starts(self, at: int, said: str) -> int:
        """How many pieces words are, if they stand at a place; else none."""
        told = said.split()
        return len(told) if self.words[at : at + len(told)] == told else 0

    def _leads(self, at: int, leads: Sequence[str] | Mapping[str, object]) -> Iterator[tuple[str, int]]:
        """Those of some words that stand at a place, and where they end."""
        return ((lead, at + count) for lead in leads if (count := self._starts(at, lead)))

    def _skipped(self, at: int, *words: str) -> int:
        """A place, past one of some words if it stands there."""
        return at + (at < self.count and self.words[at] in words)

    # Each form yields what of its kind begins at a piece.

    def _said(self, at: int) -> Iterator[_Found]:
        for said, end in self._leads(at, lexicon.SAID):
            yield _Found(end - at, lexicon.SAID[said], is_bare=" " not in said)

    def _quoted(self, at: int) -> Iterator[_Found]:
        if self.words[at].startswith('"') and len(self.words[at]) > 2:
            yield _Found(1, Words(self.piece(at).strip('"')))
        if self.words[at] == "words" and at == 0 and self.count > 1:
            yield _Found(self.count, Words(self.piece(1, self.count)))

    def _denied(self, at: int) -> Iterator[_Found]:
        for _, end in self._leads(at, lexicon.NOT):
            found = self.limit(end) if end < self.count else None
            if found is not None and found.condition is not None and not isinstance(found.condition, Words):
                yield _Found(end - at + found.count, _not(found.condition))

    def _order(self, at: int) -> Iterator[_Found]:
        for said, end in self._leads(at, lexicon.SORTS):
            end = self._skipped(end, "first")
            yield _Found(end - at, order=lexicon.SORTS[said])
        for _, by in self._leads(at, lexicon.SORT_BY):
            for name, end in self._leads(by, lexicon.SORT_FIELDS):
                field = lexicon.SORT_FIELDS[name]
                yield _Found(end - at, order=(field, False))
                for down, directions in ((True, lexicon.DOWN), (False, lexicon.UP)):
                    for _, last in self._leads(self._skipped(end, ","), directions):
                        yield _Found(last - at, order=(field, down))

    def _when(self, at: int) -> Iterator[_Found]:
        days = read_span(self.words[at:], self._known.today)
        if days and days[1].days and self.words[at] in ("last", "past"):
            yield _Found(days[0], _came(days[1]))
        for lead, end in self._leads(at, (*lexicon.ADDED, *lexicon.PLAYED, "not played", "never played")):
            found = read_span(self.words[end:], self._known.today)
            if found is None:
                continue
            count, span = found
            condition = _came(span) if lead in lexicon.ADDED else _last_played(span)
            denied = lead.startswith(("not", "never"))
            if span.days and self.words[end] == "for" and not denied:
                continue
            yield _Found(end - at + count, NoneOf((condition,)) if denied else condition)

    def _key(self, at: int) -> Iterator[_Found]:
        leads = [("", at), *self._leads(at, lexicon.FITS), *self._leads(at, lexicon.IS_KEY)]
        for lead, start in leads:
            start = self._skipped(start, ":", "=", "is") if lead else start
            for end in range(start + 1, min(start + 3, self.count) + 1):
                said = self.piece(start, end)
                whole = lead in lexicon.FITS or lead.startswith(("key", "in the key"))
                if (key := _key_of(said)) and (whole or KEY.fullmatch(fold(said))):
                    yield _Found(end - at, KeyIs(key, lead in lexicon.FITS), is_bare=not lead)

    def _often(self, at: int) -> Iterator[_Found]:
        """How often it was played, or went well."""
        for said, start in self._leads(at, lexicon.TIMES):
            for count, span in read_ranges(self.words[start:]):
                end = start + count
                spoken = self.words[end - 1] in ("once", "twice", "thrice")
                if not spoken and self.words[end : end + 1] != ["times"]:
                    continue
                end += not spoken
                yield _Found(end - at, span.of(lexicon.TIMES[said]))
                for side, last in self._leads(end, lexicon.AFTER_NUMBER):
                    sided = Range(span.first, side=lexicon.AFTER_NUMBER[side])
                    yield _Found(last - at, sided.of(lexicon.TIMES[said]))

    def _number(self, at: int) -> Iterator[_Found]:
        for name, start in self._leads(at, lexicon.NUMBER_NAMES):
            start = self._skipped(start, "is", ":", "=", "of", "in")
            for count, span in read_ranges(self.words[start:]):
                if span.field in (None, lexicon.NUMBER_NAMES[name]):
                    yield _Found(start - at + count, span.of(lexicon.NUMBER_NAMES[name]))
        for said, start in self._leads(at, lexicon.COMPARATIVES):
            field, side = lexicon.COMPARATIVES[said]
            for count, span in read_ranges(self.words[start:]):
                if span.last is None and span.side is None and span.field in (None, field):
                    yield _Found(start - at + count, Range(span.first, side=side).of(field))
        for count, span in read_ranges(self.words[at:]):
            end = self._skipped(at + count, "long")
            if span.field is not None:
                yield _Found(end - at, span.of(span.field))
            elif (bare := _bare(span)) is not None:
                yield _Found(count, bare, is_bare=span.last is None and span.side is None)

    def _decade(self, at: int) -> Iterator[_Found]:
        start = self._skipped(self._skipped(at, "from", "in"), "the")
        said = self.words[start] if start < self.count else ""
        first = lexicon.DECADES.get(said)
        if found := DECADE.fullmatch(said):
            number = int(found[1])
            first = number if number > 99 else number + (1900 if number > 25 else 2000)
        if first is not None and first % 10 == 0:
            yield _Found(start + 1 - at, Between("year", float(first), float(first + 9)))

    def _text_field(self, at: int) -> Iterator[_Found]:
        for name, start in self._leads(at, lexicon.TEXT_NAMES):
            field = lexicon.TEXT_NAMES[name]
            for said, begin in self._leads(start, lexicon.DENIED_HOW):
                for end, condition in self._value(begin, field, lexicon.DENIED_HOW[said], name):
                    yield _Found(end - at, NoneOf((condition,)))
            hows = lexicon.FOLDER_HOW_WORDS if field == "folder" else lexicon.HOW_WORDS
            for how, begin in [*self._leads(start, hows), ("", start)]:
                for end, condition in self._value(begin, field, hows.get(how), name):
                    yield _Found(end - at, condition)

    def _value(
        self, start: int, field: TextField, how: How | None, lead: str
    ) -> Iterator[tuple[int, Condition]]:
        """A text of a field: one that is known, or what stands there up to the next limit."""
        if how in (None, "is"):
            yield from ((end, made) for end, made in self._names.get(start, ()) if _is_of(made, field))
        end = self._until(start)
        if end == start:
            return
        text = self.piece(start, end).strip('"')
        if how in (None, "is") and field in lexicon.WHOLE:
            begun = list(self._known.texts(field, text))
            # What "by" and "on" lead to may be anything: only names are taken.
            if begun or lead not in lexicon.LOOSE:
                yield end, TextIs(field, begun[0] if begun else text, "is" if begun else "contains")
        else:
            yield end, TextIs(field, text, "contains" if how in (None, "is") else how)

    def _until(self, start: int) -> int:
        """Where a free text ends: at a joining word, or where a number is asked for, or an order."""
        end = start
        while end < self.count and self.words[end] not in (*AND, OR):
            if end > start and any(
                True for form in (self._number, self._order, self._denied) for _ in form(end)
            ):
                break
            end += 1
        return end

    def _within(self, at: int) -> Iterator[_Found]:
        """As in "dub in the title"; and languages."""
        for name in ("title", "comment", "artist", "album"):
            for lead in ("in the", "in"):
                if count := self._starts(at + 1, f"{lead} {name}"):
                    yield _Found(1 + count, TextIs(lexicon.TEXT_NAMES[name], self.piece(at), "contains"))
        if self.words[at] == "in" and at + 1 < self.count and self.words[at + 1] in lexicon.LANGUAGES:
            yield _Found(2, TextIs("language", self.piece(at + 1), "contains"))

    def _named(self, at: int) -> Iterator[_Found]:
        """Tags, styles, artists, lists and venues by their names."""
        named = self._names.get(at, [])
        for end, condition in reversed(named) if self._other else named:
            yield _Found(end - at, condition, is_bare=True)
        for leads, kind in lexicon.NAMED:
            for _, start in self._leads(at, leads):
                for end, condition in self._names.get(start, ()):
                    if type(condition).__name__ == kind:
                        yield _Found(end - at, condition)

    def _played_at(self, at: int) -> Iterator[_Found]:
        for lead, start in self._leads(at, lexicon.AT_VENUE):
            for end, condition in self._names.get(start, ()):
                if isinstance(condition, PlayedAt) and condition.venue_id is not None:
                    yield from self._there(at, end, lead, condition.venue_id)

    def _there(self, at: int, end: int, lead: str, venue_id: int) -> Iterator[_Found]:
        """What was played at a venue: ever, never, so often, or when."""
        denied = lead.startswith(("not", "never"))
        if lead.startswith("never again"):
            yield _Found(end - at, NeverAt(venue_id))
            return
        if not lead.startswith("last"):
            yield _Found(end - at, PlayedAt(venue_id, None, 0) if denied else PlayedAt(venue_id))
        if when := read_span(self.words[end:], self._known.today):
            yield _Found(end - at + when[0], _played_there(venue_id, when[1], denied))
        for count, span in () if denied else read_ranges(self.words[end:]):
            often = span.of("plays")
            low, high = (None if each is None else int(each) for each in (often.low, often.high))
            last = self._skipped(end + count, "times")
            yield _Found(last - at, PlayedAt(venue_id, low, high))


def _not(condition: Condition) -> Condition:
    if isinstance(condition, NoneOf) and len(condition.parts) == 1:
        return condition.parts[0]
    return NoneOf((condition,))


def _played_there(venue_id: int, span: Span, denied: bool) -> Condition:
    if span.days:
        low, high = (None, 0) if denied else (1, None)
        return PlayedAt(venue_id, low, high, span.days)
    there = LastPlayedAt(venue_id, span.since, span.until)
    return NoneOf((there,)) if denied else there


def _came(span: Span) -> Condition:
    return Lately("added_at", span.days) if span.days else Added(span.since, span.until)


def _last_played(span: Span) -> Condition:
    return Lately("last_played", span.days) if span.days else LastPlayed(span.since, span.until)


def _key_of(said: str) -> str | None:
    try:
        return str(parse_key(said))
    except ValueError:
        return None


def _bare(span: Range) -> Condition | None:
    """A number with nothing beside it: a year, or else a tempo."""
    ends = [each.value for each in (span.first, span.last) if each is not None]
    if all(each.is_integer() and FIRST_YEAR <= each <= LAST_YEAR for each in ends):
        return span.of("year")
    return span.of("bpm") if all(LEAST_BPM <= each <= MOST_BPM for each in ends) else None


def _is_of(condition: Condition, field: TextField) -> bool:
    return isinstance(condition, TextIs) and condition.field == field


def _names_in(
    grams: Mapping[str, list[tuple[int, int]]], known: Known
) -> dict[int, list[tuple[int, Condition]]]:
    """What is known by names that stand in a text: by where each begins, where it ends, what it asks for."""
    tags = _asked_by_name(((known.tags, Tagged),))
    others = _asked_by_name(((known.lists, InList), (known.backings, OverBacking), (known.venues, PlayedAt)))
    # A tag is likelier meant than a style, and both than a list of that name.
    named = [(gram, tags[gram]) for gram in grams if gram in tags]
    spelt = {other: gram for gram in grams for other in (gram, gram.replace(" and ", " & "))}
    for field in lexicon.WHOLE:
        named += [(spelt[fold(text)], TextIs(field, text)) for text in known.exact(field, list(spelt))]
    named += [(gram, others[gram]) for gram in grams if gram in others]
    found: dict[int, list[tuple[int, Condition]]] = {}
    for gram, condition in named:
        for at, end in grams[gram]:
            found.setdefault(at, []).append((end, condition))
    return found


def _asked_by_name(
    kinds: Sequence[tuple[Sequence[tuple[int, str]], Callable[[int], Condition]]],
) -> dict[str, Condition]:
    """What asks for each thing that has a name, of some kinds."""
    asked: dict[str, Condition] = {}
    for names, made in kinds:
        for number, name in names:
            asked.setdefault(fold(name), made(number))
            asked.setdefault(fold(name).removeprefix("the "), made(number))
    return asked
