"""Limits in plain words, such as "tempo 120 to 126" or "played never": reading them, and offering how they go
on while they are typed.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import get_args

from vinyl.core.rules.conditions import (
    PER_KBIT,
    WHOLE_BPM,
    Added,
    AllOf,
    Between,
    Condition,
    Flaw,
    How,
    InList,
    Is,
    KeyIs,
    LastPlayed,
    LastPlayedAt,
    Lately,
    Locked,
    NeverAt,
    NoneOf,
    NumberField,
    Origin,
    OverBacking,
    PlayedAt,
    Point,
    Tagged,
    TextField,
    TextIs,
    TimeField,
)
from vinyl.core.text import fold
from vinyl.core.tonal.key import TONICS, parse_key

MOST_OFFERED = 9
NUMBERS: Mapping[str, tuple[NumberField, str]] = {
    "tempo": ("bpm", "120 to 126"), "energy": ("energy", "over 60"), "stars": ("rating", "3 to 5"),
    "year": ("year", "2019 to 2026"), "length": ("duration_s", "3:00 to 6:30"),
    "loudness": ("lufs", "over -9"),
    "doubt": ("doubt", "over 0.5"), "cues": ("cue_count", "4 to 8"), "plays": ("plays", "over 5"),
    "bitrate": ("bit_rate", "over 256"), "routes": ("route_count", "1 to 3"),
    "well": ("went_well", "2 or more"), "flat": ("fell_flat", "1 or more"),
    "asked": ("asked_for", "1 or more"),
}  # fmt: skip
TEXTS: Mapping[str, TextField] = {
    "artist": "artist", "album": "album", "label": "label", "style": "genre", "remixer": "remixer",
    "composer": "composer", "language": "language", "format": "codec", "colour": "colour",
    "title": "title", "comment": "comment", "grouping": "grouping", "catalogue": "catalogue",
    "isrc": "isrc", "marks": "marks", "file": "file_name", "folder": "folder",
}  # fmt: skip


def _a(word: str) -> str:
    return f"{'an' if word[0] in 'aeiou' else 'a'} {word}"


PLAIN: Mapping[str, Condition] = {
    "without cues": Between("cue_count", None, 0), "with cues": Between("cue_count", 1, None),
    "without tags": NoneOf((Is("has tags"),)), "with tags": Is("has tags"),
    "without stars": Between("rating", None, 0), "without tempo": NoneOf((Between("bpm", None, None),)),
    "without picture": NoneOf((Is("has picture"),)), "with picture": Is("has picture"),
    "without routes": Between("route_count", None, 0), "with routes": Between("route_count", 1, None),
    "with a flaw in the sound": Is("has findings"), "not analysed": NoneOf((Is("analysed"),)),
    "away": Is("away"), "not away": NoneOf((Is("away"),)), "file replaced": Is("replaced"),
    "explicit": Is("explicit"), "not explicit": NoneOf((Is("explicit"),)),
    "never again": Is("never again"), "not never again": NoneOf((Is("never again"),)),
    "wanted in a better file": Is("wanted"), "not wanted": NoneOf((Is("wanted"),)),
    "grid locked": Locked("grid"), "cues locked": Locked("cues"), "key locked": Locked("key"),
    "double entry": Is("double entry"),
    "with versions": Is("has versions"), "without versions": NoneOf((Is("has versions"),)),
    "one version of each work": NoneOf((Is("later version"),)),
    "in no crate": NoneOf((Is("in a crate"),)), "in a crate": Is("in a crate"),
    "tags locked": Locked("tags"), "played never": Between("plays", None, 0),
    "played": Between("plays", 1, None),
    "went well": Between("went_well", 1, None), "fell flat": Between("fell_flat", 1, None),
    "asked for": Between("asked_for", 1, None),
    **{f"with {_a(point)}": Is(point) for point in get_args(Point)},
    **{f"without {_a(point)}": NoneOf((Is(point),)) for point in get_args(Point)},
    **{origin: Is(origin) for origin in get_args(Origin)},
    **{f"sound {flaw}": Is(flaw) for flaw in get_args(Flaw)},
}  # fmt: skip
PARTLY: tuple[How, ...] = ("contains", "begins", "like")
DENIED: Mapping[str, How] = {"is not": "is", "does not contain": "contains", "does not begin": "begins"}
KEYS = tuple(f"{tonic} {mode}" for tonic in TONICS for mode in ("minor", "major"))

_NUMBER = r"-?\d+(?:[.:]\d+)?"
_RANGE = re.compile(rf"({_NUMBER})\s*(?:to|-|–)\s*({_NUMBER})")
_LOW = re.compile(rf"(?:over|from|above|at least|more than)\s+({_NUMBER})|({_NUMBER})\s*(?:\+|or more)")
_HIGH = re.compile(rf"(?:under|up to|below|at most|less than)\s+({_NUMBER})")
_ABOUT = re.compile(rf"(?:about|near)\s+({_NUMBER})")
_DAYS = re.compile(r"in the last (\d{1,4}) (day|week|month|year)s?")
_NOT_FOR = re.compile(r"not for (\d{1,4}) (day|week|month|year)s?")
_DATE = re.compile(r"(in|since|before)\s+(\d{4}(?:-\d{2}(?:-\d{2})?)?)")
_OFTEN = re.compile(r"(\d{1,4}) times(?: or more)?(?: in the last (\d{1,4}) (day|week|month|year)s?)?")
AT_VENUE = ("played at", "not played at", "last played at", "never again at")
_LENGTHS = {"day": 1, "week": 7, "month": 30, "year": 365}


@dataclass(frozen=True, slots=True)
class Limit:
    """A limit in words. Without a condition it is not whole yet: the words are to be gone on with."""

    words: str
    condition: Condition | None
    rest: str = ""


@dataclass(frozen=True, slots=True)
class Known:
    """Names that limits can be about, and how texts of a field that begin so are found."""

    tags: Sequence[tuple[int, str]]
    lists: Sequence[tuple[int, str]]
    backings: Sequence[tuple[int, str]]
    texts: Callable[[TextField, str], Sequence[str]]
    today: date
    venues: Sequence[tuple[int, str]] = ()
    # Texts of a field that are as some that are given, whatever their case.
    exact: Callable[[TextField, Sequence[str]], Sequence[str]] = lambda field, texts: ()


def limits(text: str, known: Known) -> list[Limit]:
    """What the end of a text may be as a limit, the likeliest first; what stands before is its ``rest``.
    Limits with commas between them are one together.
    """
    return [*_together(text, known), *_at_the_end(text, known)][:MOST_OFFERED]


def _together(text: str, known: Known) -> Iterator[Limit]:
    parts = text.split(",")
    found: dict[str, Condition] = {}
    for part in parts if len(parts) > 1 else ():
        meant = _meant(part.strip(), known)
        if meant is None:
            return
        found.update(meant)
    if found:
        yield Limit(", ".join(found), AllOf(tuple(found.values())))


def _meant(text: str, known: Known) -> dict[str, Condition] | None:
    """The limit that a text is by itself, by its words: as it is written out, or else the likeliest."""
    whole = [(each.words, each.condition) for each in _at_the_end(text, known) if not each.rest]
    likely = [(words, condition) for words, condition in whole if condition]
    written = [each for each in likely if fold(each[0]) == fold(text)]
    return dict((written or likely)[:1]) or None


def _at_the_end(text: str, known: Known) -> list[Limit]:
    words = text.split()
    for start in range(len(words)):
        phrase, rest = " ".join(words[start:]), " ".join(words[:start])
        found = list(_ending(phrase, text.endswith(" "), known))
        if found:
            whole = {each.words: Limit(each.words, each.condition, rest) for each in found}
            return list(whole.values())[:MOST_OFFERED]
    return []


def _ending(phrase: str, ended: bool, known: Known) -> Iterator[Limit]:
    lead, _, said = phrase.partition(" ")
    lead = fold(lead)
    if lead in NUMBERS:
        yield from _number(lead, said)
    elif lead == "key":
        yield from _key(said)
    elif lead in ("added", "played"):
        yield from _when(lead, said, known.today)
    elif lead in TEXTS and (said or ended):
        yield from _text_parts(lead, said)
        yield from _denied(lead, said, known)
        yield from (_text(lead, each) for each in known.texts(TEXTS[lead], said))
    yield from _at_venue(fold(phrase), known)
    yield from _named(fold(phrase), known)
    folded = fold(phrase)
    yield from (Limit(words, made) for words, made in PLAIN.items() if words.startswith(folded))
    if not said and not ended:
        leads = (*NUMBERS, "key fits", "key", "added", "played", *TEXTS, "tag", "without tag", "in crate")
        yield from (Limit(f"{each} ", None) for each in leads if each.startswith(lead) and each != lead)


def _number(lead: str, said: str) -> Iterator[Limit]:
    field, example = NUMBERS[lead]
    said = fold(said)
    if found := _RANGE.fullmatch(said):
        low, high = sorted((_value(found[1], field), _value(found[2], field)))
        yield Limit(f"{lead} {found[1]} to {found[2]}", Between(field, low, high))
    elif found := _LOW.fullmatch(said):
        low = _value(found[1] or found[2], field)
        yield Limit(f"{lead} over {found[1] or found[2]}", Between(field, low, None))
    elif found := _HIGH.fullmatch(said):
        yield Limit(f"{lead} under {found[1]}", Between(field, None, _value(found[1], field)))
    elif found := _ABOUT.fullmatch(said):
        value = _value(found[1], field)
        yield Limit(f"{lead} about {found[1]}", _around(field, value, 0.03 * abs(value)))
    elif re.fullmatch(_NUMBER, said):
        yield from _alone(lead, field, said)
    elif not said or example.startswith(said.split()[0]):
        yield Limit(f"{lead} {example}", _number_of(lead, example))


def _alone(lead: str, field: NumberField, said: str) -> Iterator[Limit]:
    """One number: just it, from it on, up to it."""
    value = _value(said, field)
    top = value + WHOLE_BPM if field == "bpm" and value.is_integer() else value
    yield Limit(f"{lead} {said}", Between(field, value, top))
    yield Limit(f"{lead} over {said}", Between(field, value, None))
    yield Limit(f"{lead} under {said}", Between(field, None, value))
    if field == "bpm":
        yield Limit(f"{lead} about {said}", _around(field, value, 0.03 * value))


def _number_of(lead: str, example: str) -> Condition | None:
    return next(_number(lead, example)).condition


def _around(field: NumberField, value: float, near: float) -> Between:
    return Between(field, round(value - near, 2), round(value + near, 2))


def _value(text: str, field: NumberField) -> float:
    minutes, colon, seconds = text.partition(":")
    value = 60.0 * float(minutes) + float(seconds) if colon else float(text)
    return value * PER_KBIT if field == "bit_rate" else value


def _key(said: str) -> Iterator[Limit]:
    wanted, fits = said, False
    if fold(said).startswith("fits") and (len(said) == 4 or said[4] == " "):
        wanted, fits = said[5:], True
    try:
        exact = [str(parse_key(wanted))]
    except ValueError:
        exact = []
    begun = [key for key in KEYS if fold(key).startswith(fold(wanted.strip()))]
    for key in dict.fromkeys((*exact, *begun)):
        if not fits:
            yield Limit(f"key {key}", KeyIs(key, fits=False))
        yield Limit(f"key fits {key}", KeyIs(key))


def _when(lead: str, said: str, today: date) -> Iterator[Limit]:
    kind = Added if lead == "added" else LastPlayed
    said = fold(said)
    spans: dict[str, tuple[str | None, str | None]] = {
        "today": (str(today), None),
        "this week": (str(today - timedelta(days=today.weekday())), None),
        "this month": (f"{today:%Y-%m}", None),
        "this year": (f"{today:%Y}", None),
    }
    field: TimeField = "added_at" if lead == "added" else "last_played"
    if found := _DAYS.fullmatch(said):
        yield Limit(f"{lead} {said}", Lately(field, int(found[1]) * _LENGTHS[found[2]]))
    elif found := _DATE.fullmatch(said):
        ends = {"in": (found[2], found[2]), "since": (found[2], None), "before": (None, found[2])}
        spans[said] = ends[found[1]]
    yield from (
        Limit(f"{lead} {words}", kind(*span)) for words, span in spans.items() if words.startswith(said)
    )
    if lead == "played" and (found := _NOT_FOR.fullmatch(said)):
        days = int(found[1]) * _LENGTHS[found[2]]
        yield Limit(f"played {said}", NoneOf((Lately("last_played", days),)))
    for more in ("in the last 30 days", "since 2026-01", *(("not for 4 weeks",) * (lead == "played"))):
        if said and more.startswith(said) and more != said:
            yield from _when(lead, more, today)


def _at_venue(phrase: str, known: Known) -> Iterator[Limit]:
    """What was played at a venue, and how it goes on: ever, lately, not lately, so often, last before a
    date.
    """
    for lead in AT_VENUE:
        begun = phrase[len(lead) :].lstrip() if phrase.startswith(f"{lead} ") else None
        if begun is None:
            if len(phrase) > 2 and lead.startswith(phrase) and known.venues:
                yield Limit(f"{lead} ", None)
            continue
        for venue_id, name in known.venues:
            if fold(name).startswith(begun):
                yield from _of_venue(lead, venue_id, name)
            elif begun.startswith(f"{fold(name)} "):
                yield from _when_there(lead, venue_id, name, begun[len(fold(name)) :].strip())


def _of_venue(lead: str, venue_id: int, name: str) -> Iterator[Limit]:
    words = f"{lead} {name}"
    if lead == "never again at":
        yield Limit(words, NeverAt(venue_id))
    elif lead == "not played at":
        yield Limit(words, PlayedAt(venue_id, None, 0))
        yield from _when_there(lead, venue_id, name, "for 4 weeks")
    elif lead == "played at":
        yield Limit(words, PlayedAt(venue_id))
        yield from _when_there(lead, venue_id, name, "in the last 8 weeks")
        yield from _when_there(lead, venue_id, name, "3 times or more")
    else:
        yield Limit(f"{words} before ", None)
        yield Limit(f"{words} since ", None)


def _when_there(lead: str, venue_id: int, name: str, said: str) -> Iterator[Limit]:
    words = f"{lead} {name} {said}"
    days, date_said, often = _DAYS.fullmatch(said), _DATE.fullmatch(said), _OFTEN.fullmatch(said)
    rested = re.fullmatch(_NOT_FOR.pattern.removeprefix("not "), said)
    if lead == "played at" and days:
        yield Limit(words, PlayedAt(venue_id, 1, None, int(days[1]) * _LENGTHS[days[2]]))
    elif lead == "played at" and often:
        within = int(often[2]) * _LENGTHS[often[3]] if often[2] else None
        yield Limit(words, PlayedAt(venue_id, int(often[1]), None, within))
    elif lead == "not played at" and rested:
        yield Limit(words, PlayedAt(venue_id, None, 0, int(rested[1]) * _LENGTHS[rested[2]]))
    elif lead == "last played at" and date_said:
        ends = {"in": (date_said[2],) * 2, "since": (date_said[2], None), "before": (None, date_said[2])}
        yield Limit(words, LastPlayedAt(venue_id, *ends[date_said[1]]))


def _text_parts(lead: str, said: str) -> Iterator[Limit]:
    """What stands within a text, or that there is none."""
    for how in (*PARTLY, "under") if lead == "folder" else PARTLY:
        if said.startswith(f"{how} ") and said[len(how) :].strip():
            yield Limit(f"{lead} {said}", TextIs(TEXTS[lead], said[len(how) :].strip(), how))
        elif said and how.startswith(said):
            yield Limit(f"{lead} {how} ", None)
    if said and "empty".startswith(said):
        yield Limit(f"{lead} empty", TextIs(TEXTS[lead], ""))


def _denied(lead: str, said: str, known: Known) -> Iterator[Limit]:
    """What a text is not, or does not have."""
    for words, how in DENIED.items():
        wanted = said[len(words) + 1 :].strip()
        if not said.startswith(f"{words} "):
            if said and words.startswith(said):
                yield Limit(f"{lead} {words} ", None)
            continue
        texts = known.texts(TEXTS[lead], wanted) if how == "is" else ()
        for text in texts or filter(None, [wanted]):
            yield Limit(f"{lead} {words} {text}", NoneOf((TextIs(TEXTS[lead], text, how),)))


def _text(lead: str, value: str) -> Limit:
    return Limit(f"{lead} {value}", TextIs(TEXTS[lead], value, "is"))


def _named(phrase: str, known: Known) -> Iterator[Limit]:
    """Tags, lists and shared backings by their names; a tag by its bare name too."""
    groups: tuple[tuple[tuple[str, ...], Sequence[tuple[int, str]], Callable[[int], Condition]], ...] = (
        (("tag", ""), known.tags, Tagged),
        (("without tag",), known.tags, lambda i: NoneOf((Tagged(i),))),
        (("in crate",), known.lists, InList),
        (("not in crate",), known.lists, lambda i: NoneOf((InList(i),))),
        (("backing",), known.backings, OverBacking),
    )
    for leads, names, made in groups:
        for lead in leads:
            begun = phrase[len(lead) :].strip() if lead and phrase.startswith(f"{lead} ") else phrase
            if lead and begun is phrase:
                continue
            if not lead and len(begun) < 2:
                continue
            for number, name in names:
                if fold(name).startswith(begun):
                    yield Limit(f"{leads[0]} {name}", made(number))
