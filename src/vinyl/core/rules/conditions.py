"""Conditions on tracks: one frozen tree for searches, pictures, lists and reasons.

A tree is validated once, said in words, and evaluated here against the facts of one track; this is the
reference for what the library compiles to SQL. What is unknown meets no condition, and ``NoneOf`` is met by
what its parts are not.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Any, Literal

from vinyl.core.errors import VinylError
from vinyl.core.text import fold, has_words
from vinyl.core.tonal.key import fitting_keys, parse_key

TextField = Literal[
    "title", "artist", "album", "genre", "label", "comment", "codec", "remixer", "composer", "grouping",
    "catalogue", "language", "isrc", "colour", "marks", "file_name", "folder",
]  # fmt: skip
NumberField = Literal[
    "bpm", "energy", "rating", "year", "duration_s", "lufs", "doubt", "key_confidence",
    "bit_rate", "cue_count", "route_count", "plays", "went_well", "fell_flat", "asked_for",
]  # fmt: skip
# Points that a track has among its cues.
Point = Literal["in point", "main point", "out point", "loop", "engaging loop"]
# Where the tempo and the key come from.
Origin = Literal[
    "tempo by hand", "tempo by analysis", "tempo from the file", "key by hand", "key by analysis",
    "key from the file",
]  # fmt: skip
# What is wrong with the sound (vinyl.core.quality.findings).
Flaw = Literal[
    "lossy before", "clipped", "silence before", "silence after", "same on both sides", "one side silent",
    "sides opposed", "off centre", "ends early",
]  # fmt: skip
Flag = Literal[
    Point,
    Origin,
    Flaw,
    "away",
    "has picture",
    "analysed",
    "replaced",
    "has findings",
    "explicit",
    "never again",
    "wanted",
    "has tags",
    "in a crate",
    "double entry",
    "has versions",
    "later version",
]
TimeField = Literal["added_at", "last_played"]
Part = Literal["grid", "key", "cues", "tags"]
# With "like", * stands for any letters and ? for one. What is "under" a folder lies in it, however deep; its
# name is taken to the letter.
How = Literal["is", "contains", "begins", "like", "under"]

# Bit rates are kept in bits a second and told in kbit.
PER_KBIT = 1000
MOST_DEPTH = 12
MOST_PARTS = 400
MOST_TEXT = 400
MOST_PATH = 4096
MOST_DAYS = 36_500
MOST_FIRST = 100_000
DATE = re.compile(r"\d{4}(-\d{2}(-\d{2})?)?")
# A date given in part stands for its whole span: its end is any time that begins with it.
AFTER_ANY_TIME = "~"
# A tempo that is said without a fraction stands for all that begin with it.
WHOLE_BPM = 0.99


class ConditionError(VinylError):
    """A condition that makes no sense, in words."""


@dataclass(frozen=True, slots=True)
class AllOf:
    """Every part holds; without parts, always."""

    parts: tuple[Condition, ...] = ()


@dataclass(frozen=True, slots=True)
class AnyOf:
    """One part at least holds; without parts, never."""

    parts: tuple[Condition, ...]


@dataclass(frozen=True, slots=True)
class NoneOf:
    """No part holds."""

    parts: tuple[Condition, ...]


@dataclass(frozen=True, slots=True)
class Words:
    """Each word occurs in the track's text, names of its tags too; case and accents do not count."""

    text: str


@dataclass(frozen=True, slots=True)
class TextIs:
    """A text field, compared without case and accents."""

    field: TextField
    text: str
    how: How = "is"


@dataclass(frozen=True, slots=True)
class Between:
    """A number, both ends included; None leaves an end open."""

    field: NumberField
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, slots=True)
class Added:
    """Came in between two dates, both included: "2026", "2026-11" or "2026-11-25"."""

    since: str | None = None
    until: str | None = None


@dataclass(frozen=True, slots=True)
class LastPlayed:
    """Was last played between two dates, both included, written as for Added."""

    since: str | None = None
    until: str | None = None


@dataclass(frozen=True, slots=True)
class Lately:
    """Came in, or was last played, in the last so many days, whenever one looks."""

    field: TimeField
    days: int


@dataclass(frozen=True, slots=True)
class PlayedAt:
    """Was played so many times, both ends included, at a venue or anywhere, in the last so many days or
    ever.
    """

    venue_id: int | None = None
    low: int | None = 1
    high: int | None = None
    days: int | None = None


@dataclass(frozen=True, slots=True)
class LastPlayedAt:
    """Was last played at a venue between two dates, both included, written as for Added."""

    venue_id: int
    since: str | None = None
    until: str | None = None


@dataclass(frozen=True, slots=True)
class NeverAt:
    """Is never to be played again at a venue, or anywhere."""

    venue_id: int


@dataclass(frozen=True, slots=True)
class KeyIs:
    """The key, or with ``fits`` any key that fits it (vinyl.core.tonal.key.fitting_keys)."""

    key: str
    fits: bool = True


@dataclass(frozen=True, slots=True)
class InList:
    """Has a place in a list."""

    list_id: int


@dataclass(frozen=True, slots=True)
class FirstOf:
    """Is among the first so many of what meets a condition, in an order of fields and whether downwards."""

    where: Condition
    order: tuple[tuple[str, bool], ...]
    count: int


@dataclass(frozen=True, slots=True)
class Tagged:
    """Has a tag."""

    tag_id: int


@dataclass(frozen=True, slots=True)
class OverBacking:
    """Lies over a shared instrumental."""

    backing_id: int


@dataclass(frozen=True, slots=True)
class Locked:
    """A part of the track is locked."""

    part: Part


@dataclass(frozen=True, slots=True)
class Is:
    """A plain fact about the track."""

    flag: Flag


Condition = (
    AllOf | AnyOf | NoneOf | Words | TextIs | Between | Added | LastPlayed | Lately | PlayedAt | LastPlayedAt
    | NeverAt | KeyIs | InList | FirstOf | Tagged | OverBacking | Locked | Is
)  # fmt: skip
Joined = AllOf | AnyOf | NoneOf
Facts = Mapping[str, Any]
Named = InList | Tagged | OverBacking | PlayedAt | LastPlayedAt | NeverAt
Names = Callable[[Named], str | None]


def validate(condition: Condition) -> Condition:
    """The condition itself.

    Raises:
        ConditionError: if it is too large, or a part of it makes no sense.
    """
    if sum(1 for _ in _walk(condition, 1)) > MOST_PARTS:
        raise ConditionError(f"A condition can have {MOST_PARTS} parts at the most.")
    for part in _walk(condition, 1):
        _CHECKS.get(type(part), lambda _: None)(part)
    return condition


def simplified(condition: Condition) -> Condition:
    """The same, said without groups that say nothing: of one part, or within another of their own kind."""
    if isinstance(condition, FirstOf):
        return replace(condition, where=simplified(condition.where))
    if not isinstance(condition, Joined):
        return condition
    within = AnyOf if isinstance(condition, NoneOf) else type(condition)
    parts: list[Condition] = []
    for part in map(simplified, condition.parts):
        parts += part.parts if isinstance(part, within) else (part,)
    if len(parts) == 1 and not isinstance(condition, NoneOf):
        return parts[0]
    return replace(condition, parts=tuple(parts))


def matches(condition: Condition, facts: Facts) -> bool:
    """Whether a track meets a condition.

    Args:
        facts: a value for each field's name (None if unknown), ``search_text`` (searchable), ``added_at``,
            ``last_played``, ``key``, ``backing_id``, ``lists``, ``tags`` and ``locks`` as sets, a truth
            for each flag, the date ``today``, the set ``first`` of those FirstOf that hold, ``nights`` as
            pairs of a venue's id (None without one) and a time, and ``never_at`` as a set of venues' ids.
    """
    match condition:
        case AllOf(parts):
            return all(matches(part, facts) for part in parts)
        case AnyOf(parts):
            return any(matches(part, facts) for part in parts)
        case NoneOf(parts):
            return not any(matches(part, facts) for part in parts)
        case InList(list_id):
            return list_id in facts["lists"]
        case FirstOf():
            return condition in facts["first"]
        case Tagged(tag_id):
            return tag_id in facts["tags"]
        case OverBacking(backing_id):
            return bool(facts["backing_id"] == backing_id)
        case Locked(part):
            return part in facts["locks"]
        case Is(flag):
            return bool(facts[flag])
        case PlayedAt():
            return _was_played(condition, facts)
        case LastPlayedAt(venue_id, since, until):
            there = [at for venue, at in facts["nights"] if venue == venue_id]
            last = max(there, default=None)
            return (
                last is not None
                and (since is None or last >= since)
                and (until is None or last <= until + AFTER_ANY_TIME)
            )
        case NeverAt(venue_id):
            return bool(facts["never again"]) or venue_id in facts["never_at"]
    return _matches_value(condition, facts)


def _was_played(condition: PlayedAt, facts: Facts) -> bool:
    since = "" if condition.days is None else str(facts["today"] - timedelta(condition.days))
    times = sum(
        (condition.venue_id is None or venue == condition.venue_id) and at >= since
        for venue, at in facts["nights"]
    )
    return (condition.low is None or times >= condition.low) and (
        condition.high is None or times <= condition.high
    )


def _matches_value(condition: Condition, facts: Facts) -> bool:
    match condition:
        case Words(text):
            return has_words(facts["search_text"], text)
        case TextIs(field, text, how):
            return _matches_text(facts[field] or "", text, how)
        case Between(field, low, high):
            number = facts[field]
            return number is not None and (low is None or number >= low) and (high is None or number <= high)
        case Added(since, until) | LastPlayed(since, until):
            when = facts["added_at" if isinstance(condition, Added) else "last_played"]
            after = when is not None and (since is None or when >= since)
            return after and (until is None or when <= until + AFTER_ANY_TIME)
        case Lately(field, days):
            return facts[field] is not None and facts[field] >= str(facts["today"] - timedelta(days))
        case KeyIs():
            return facts["key"] in wanted_keys(condition)
    raise TypeError(f"{condition!r} is no condition")


def under(folder: str) -> str:
    """What the paths of all that lies in a folder begin with."""
    return f"{folder.rstrip('/')}/"


def _matches_text(text: str, given: str, how: How) -> bool:
    value, wanted = fold(text), fold(given)
    match how:
        case "under":
            return f"{text}/".startswith(under(given))
        case "is":
            return value == wanted
        case "contains":
            return wanted in value
        case "begins":
            return value.startswith(wanted)
        case "like":
            parts = {"*": ".*", "?": "."}
            pattern = "".join(parts.get(letter) or re.escape(letter) for letter in wanted)
            return re.fullmatch(pattern, value, re.DOTALL) is not None


def explain(condition: Condition, names: Names = lambda _: None) -> str:
    """A condition in words, such as "tempo 120 to 126, and key fits A minor".

    Args:
        names: what lists, tags and backings are called.
    """
    match condition:
        case AllOf(parts):
            return _join(parts, ", and ", names) or "every track"
        case AnyOf(parts):
            return _join(parts, ", or ", names) or "no track"
        case NoneOf((part,)) if not isinstance(part, Joined):
            return f"not {explain(part, names)}"
        case NoneOf(parts):
            return f"not ({_join(parts, ', nor ', names)})"
        case FirstOf(where, order, count):
            by = ", then ".join(f"{NAMES.get(name, name)}{' downwards' * down}" for name, down in order)
            return f"the first {count} by {by} of ({explain(where, names)})"
        case InList() | Tagged() | OverBacking():
            return _explain_named(condition, names)
        case PlayedAt() | LastPlayedAt() | NeverAt():
            return _explain_played(condition, names)
        case _:
            return _explain_value(condition)


def _explain_named(condition: InList | Tagged | OverBacking, names: Names) -> str:
    name = names(condition)
    match condition:
        case InList():
            return f"in crate {name}" if name else "in a crate that is gone"
        case Tagged():
            return f"tag {name}" if name else "a tag that is gone"
        case OverBacking():
            return f"backing {name}" if name else "a backing that is gone"


def _explain_played(condition: PlayedAt | LastPlayedAt | NeverAt, names: Names) -> str:
    venue = f" at {names(condition) or 'a venue that is gone'}" if condition.venue_id is not None else ""
    match condition:
        case NeverAt():
            return f"never again{venue}"
        case LastPlayedAt(_, since, until):
            return f"last played{venue} {_range(since, until)}"
        case PlayedAt(_, low, high, days):
            when = "" if days is None else f" in the last {days} days"
            if high == 0:
                return f"not played{venue}{when}"
            often = "" if (low, high) == (1, None) else f" {_range(low, high)} times"
            return f"played{often}{venue}{when}"


def _explain_value(condition: Condition) -> str:
    match condition:
        case Words(text):
            return f"“{text}” in its text"
        case TextIs(field, text, how):
            return f"{NAMES[field]} {(text if how == 'is' else f'{how} {text}') or 'empty'}"
        case Between("bit_rate", low, high):
            return f"bitrate {_range(low and low / PER_KBIT, high and high / PER_KBIT)}"
        case Between("duration_s", low, high):
            return f"length {_range(_clock(low), _clock(high))}"
        case Between("bpm", low, high) if low and high and math.isclose(high - low, WHOLE_BPM):
            return f"tempo {low:g}"
        case Between(field, low, high):
            return f"{NAMES[field]} {_range(low, high)}"
        case Added(since, until) | LastPlayed(since, until):
            what = "added" if isinstance(condition, Added) else "last played"
            return f"{what} {since}" if since == until else f"{what} {_range(since, until)}"
        case KeyIs(key, fits):
            return f"key {'fits' if fits else 'is'} {key}"
        case Lately(field, days):
            return f"{'added' if field == 'added_at' else 'last played'} in the last {days} days"
        case Locked(part):
            return f"{part} locked"
        case Is(flag):
            return flag
    raise TypeError(f"{condition!r} is no condition")


def told_value(condition: Condition, facts: Facts) -> str | None:
    """What a track has of that which a condition is about; None where there is nothing to tell."""
    match condition:
        case Between("bit_rate"):
            value = facts["bit_rate"] and facts["bit_rate"] / PER_KBIT
        case Between(field) | TextIs(field):
            value = facts[field]
        case Added() | Lately("added_at"):
            value = (facts["added_at"] or "")[:10]
        case LastPlayed() | Lately():
            value = (facts["last_played"] or "never")[:10]
        case PlayedAt(venue_id) | LastPlayedAt(venue_id):
            there = [at for venue, at in facts["nights"] if venue_id is None or venue == venue_id]
            value = f"{len(there)} times, last {max(there)[:10]}" if there else "never"
        case KeyIs():
            value = facts["key"]
        case _:
            return None
    if value is None or value == "":
        return "unknown" if isinstance(condition, Between | KeyIs) else "empty"
    return f"{value:.2f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)


def inner(condition: Condition) -> tuple[Condition, ...]:
    """The conditions that one is made of."""
    if isinstance(condition, Joined):
        return condition.parts
    return (condition.where,) if isinstance(condition, FirstOf) else ()


def wanted_keys(condition: KeyIs) -> list[str]:
    """The names of all keys that meet a condition on the key.

    Raises:
        ConditionError: if it names no key.
    """
    try:
        key = parse_key(condition.key)
    except ValueError as error:
        raise ConditionError(str(error)) from error
    return [str(k) for k in fitting_keys(key)] if condition.fits else [str(key)]


def subject(condition: Condition) -> str:
    """What a condition is about: a field's name, or its own kind."""
    kinds = {KeyIs: "key", Added: "added_at", LastPlayed: "last_played"}
    return getattr(condition, "field", None) or kinds.get(type(condition), type(condition).__name__)


def without(condition: Condition, about: str) -> Condition:
    """A condition with those of its first parts left out that are about one thing; so a picture can be
    widened.
    """
    if isinstance(condition, AllOf):
        return replace(condition, parts=tuple(part for part in condition.parts if subject(part) != about))
    return AllOf() if subject(condition) == about else condition


NAMES: Mapping[str, str] = {
    "bpm": "tempo", "rating": "stars", "duration_s": "length", "lufs": "loudness",
    "key_confidence": "sureness of the key",
    "bit_rate": "bitrate", "cue_count": "cues", "route_count": "routes", "genre": "style",
    "codec": "format", "catalogue": "catalogue number", "file_name": "file name", "folder": "folder",
    **{name: name for name in ("energy", "year", "doubt", "title", "artist", "album", "label", "comment",
                               "remixer", "composer", "grouping", "language", "isrc", "colour", "marks",
                               "plays")},
    "went_well": "times it went well", "fell_flat": "times it fell flat", "asked_for": "times asked for",
}  # fmt: skip


def _walk(condition: Condition, depth: int) -> Iterator[Condition]:
    if depth > MOST_DEPTH:
        raise ConditionError(f"A condition can be nested {MOST_DEPTH} deep at the most.")
    yield condition
    for part in inner(condition):
        yield from _walk(part, depth + 1)


def _join(parts: tuple[Condition, ...], word: str, names: Names) -> str:
    return word.join(
        f"({explain(part, names)})" if isinstance(part, AllOf | AnyOf) else explain(part, names)
        for part in parts
    )


def _range(low: object, high: object) -> str:
    shown_low, shown_high = (f"{end:g}" if isinstance(end, float) else str(end) for end in (low, high))
    if low == high and low is not None:
        return shown_low
    if low is None:
        return "any" if high is None else f"up to {shown_high}"
    return f"from {shown_low}" if high is None else f"{shown_low} to {shown_high}"


def _clock(length_s: float | None) -> str | None:
    if length_s is None:
        return None
    minutes, seconds = divmod(round(float(length_s), 3), 60.0)
    return f"{minutes:.0f}:{seconds:02.0f}" if seconds.is_integer() else f"{minutes:.0f}:{seconds:06.3f}"


def _check_text(condition: Words | TextIs) -> None:
    most = MOST_TEXT
    if isinstance(condition, TextIs) and condition.how == "under":
        most = MOST_PATH
        if condition.field != "folder":
            raise ConditionError("Only a folder can have something under it.")
    if len(condition.text) > most:
        raise ConditionError(f"A text to look for can have {most} characters at the most.")


def _check_range(condition: Between) -> None:
    for end in (condition.low, condition.high):
        if end is not None and not math.isfinite(end):
            raise ConditionError(f"{NAMES[condition.field]} needs plain numbers.")


def _check_dates(condition: Added | LastPlayed | LastPlayedAt) -> None:
    for date in (condition.since, condition.until):
        if date is not None and not DATE.fullmatch(date):
            raise ConditionError(f"“{date}” is no date: write 2026, 2026-11 or 2026-11-25.")


def _check_days(condition: Lately) -> None:
    if not 0 <= condition.days <= MOST_DAYS:
        raise ConditionError(f"Days are counted from 0 to {MOST_DAYS:,}.")


def _check_played(condition: PlayedAt) -> None:
    if condition.days is not None and not 0 <= condition.days <= MOST_DAYS:
        raise ConditionError(f"Days are counted from 0 to {MOST_DAYS:,}.")


def _check_first(condition: FirstOf) -> None:
    if not 1 <= condition.count <= MOST_FIRST:
        raise ConditionError(f"A limit is a number from 1 to {MOST_FIRST:,}.")


_CHECKS: Mapping[type, Callable[[Any], object]] = {
    Words: _check_text, TextIs: _check_text, Between: _check_range, Added: _check_dates,
    LastPlayed: _check_dates, KeyIs: wanted_keys, Lately: _check_days, FirstOf: _check_first,
    LastPlayedAt: _check_dates, PlayedAt: _check_played,
}  # fmt: skip
