"""What can be chosen about carrying a library to another, each choice with its answers and what they do."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any, Literal, get_args, get_type_hints

from vinyl.core.carrying.traits import Traits
from vinyl.core.errors import VinylError
from vinyl.core.tonal.key import Notation

PlacesBy = Literal["roles", "pads", "time"]
Numbers = Literal["pads", "time"]
CommentPlace = Literal["before", "after", "replace", "leave"]

EVERY_BARS = (1, 2, 4, 8, 16)
LIMITS_MS = (5, 10, 20, 40, 1000)
# Choices whose answers are numbers.
NUMBERS: Mapping[str, tuple[int, ...]] = {"every_bars": EVERY_BARS, "limit_ms": LIMITS_MS}


class OptionError(VinylError):
    """A choice that there is not."""


@dataclass(frozen=True, slots=True)
class Options:
    """How values are written for another library; what does not concern one is passed over."""

    places_by: PlacesBy = "roles"
    numbers: Numbers = "pads"
    roles: Literal["names", "leave"] = "names"
    banks: Literal["both", "list", "quick"] = "both"
    colours: Literal["nearest", "leave"] = "nearest"
    every_bars: int = 4
    limit_ms: int = 20
    settled: Literal["yes", "no"] = "yes"
    notation: Notation = "name"
    energy: CommentPlace = "before"
    tags: Literal["comment", "grouping", "leave"] = "leave"
    routes: Literal["marks", "audio", "leave"] = "leave"
    rules: Literal["freeze", "leave"] = "freeze"
    folders: Literal["names", "leave"] = "names"
    columns: Literal["few", "usual", "all"] = "usual"
    delimiter: Literal["comma", "tab"] = "comma"


@dataclass(frozen=True, slots=True)
class Choice:
    """A choice as it is offered: of which kind of the ledger it decides, and its answers in words."""

    name: str
    kind: str
    why: str
    answers: Mapping[str, str]


ALL_CHOICES = (
    Choice(
        "places_by", "cues",
        "Where there are more cues than places, these come first.",
        {"roles": "roles, then pads, then by time", "pads": "pads, then roles, then by time",
         "time": "by time from the start"},
    ),
    Choice(
        "numbers", "cues",
        "Which number a cue has on the other side.",
        {"pads": "a pad keeps its number where it can", "time": "numbered in order of time"},
    ),
    Choice(
        "roles", "cues",
        "It knows no in, main and out: they can stand in the cue’s name, and are understood on the way back.",
        {"names": "roles stand in the names", "leave": "roles are left here"},
    ),
    Choice(
        "banks", "cues",
        "It has an ordered list and numbered quick places, and a cue may be in both.",
        {"both": "in its list, pads in its quick places too", "list": "in its list only",
         "quick": "pads in its quick places only"},
    ),
    Choice(
        "colours", "colours",
        "Where it has other colours, each cue gets the nearest.",
        {"nearest": "the nearest it has", "leave": "no colours"},
    ),
    Choice(
        "every_bars", "grid, elastic",
        "It keeps no elastic grid, but tempi that change in steps. More steps follow the drummer closer.",
        {str(bars): f"a step each {bars} bars" if bars > 1 else "a step each bar" for bars in EVERY_BARS},
    ),
    Choice(
        "limit_ms", "grid, elastic",
        "A grid whose beats would lie further off than this stays here.",
        {str(limit): f"at most {limit} ms off" if limit < 1000 else "however far off" for limit in LIMITS_MS},
    ),
    Choice(
        "settled", "grid, steady",
        "Unless it is told not to, it analyses what is new to it again, and its grid replaces yours.",
        {"yes": "told not to analyse again", "no": "it analyses again"},
    ),
    Choice(
        "notation", "key",
        "It keeps the key as a text, in any notation.",
        {"name": "as A minor", "short": "as Am", "sharps": "with sharps, as G#m",
         "wheel": "as a number of the circle, 1m", "wheel letters": "as a number with a letter, 8A"},
    ),
    Choice(
        "energy", "energy",
        "It has no place for the energy; it can stand in the comment, and is understood on the way back.",
        {"before": "in front of the comment", "after": "behind the comment",
         "replace": "in place of the comment", "leave": "left here"},
    ),
    Choice(
        "tags", "tags",
        "It has no tags; their names can stand in another field.",
        {"leave": "left here", "comment": "behind the comment", "grouping": "in the grouping"},
    ),
    Choice(
        "routes", "routes",
        "It knows no routes. Their jumps can be marked by cues, or each goes as an audio file.",
        {"leave": "left here", "marks": "its jumps as marks", "audio": "as new audio files"},
    ),
    Choice(
        "rules", "rule lists",
        "Where it cannot be told a rule, the list can go with the tracks that are in it today.",
        {"freeze": "with today’s tracks", "leave": "left here"},
    ),
    Choice(
        "folders", "lists",
        "It has one level of lists: the names of folders can stand before those of their lists.",
        {"names": "folders in the names", "leave": "folders left here"},
    ),
    Choice(
        "columns", "texts",
        "Which columns the table has; its last is always the path.",
        {"usual": "artist, title, album, style, tempo, key, length, year", "few": "artist and title",
         "all": "all columns"},
    ),
    Choice(
        "delimiter", "texts",
        "What stands between the columns.",
        {"comma": "parted by commas", "tab": "parted by tabs"},
    ),
)  # fmt: skip


def choices_for(traits: Traits) -> list[Choice]:
    """The choices that concern a library."""
    is_table, places = traits.name == "csv", traits.places
    apart = {
        "places_by": bool(places),
        "numbers": bool(places),
        "roles": places != 0,
        "banks": traits.quick_places > 0,
        "colours": traits.colours != "any" and places != 0,
        "every_bars": not traits.keeps_elastic and traits.keeps_grid,
        "limit_ms": not traits.keeps_elastic and traits.keeps_grid,
        "settled": traits.keeps_settled,
        "notation": traits.key == "text" and "key" in traits.words,
        "energy": traits.energy == "comment" and "comment" in traits.words,
        "tags": not traits.keeps_tags and "comment" in traits.words,
        "routes": places != 0,
        "folders": not traits.keeps_folders,
        "columns": is_table,
        "delimiter": is_table,
    }
    return [_for(choice, traits) for choice in ALL_CHOICES if apart.get(choice.name, True)]


def _for(choice: Choice, traits: Traits) -> Choice:
    if choice.name != "tags" or "grouping" in traits.words:
        return choice
    answers = {name: words for name, words in choice.answers.items() if name != "grouping"}
    return Choice(choice.name, choice.kind, choice.why, answers)


def options_of(kept: Mapping[str, Any]) -> Options:
    """Options from their plain form.

    Raises:
        OptionError: for a choice or an answer that there is not.
    """
    known = {field.name for field in fields(Options)}
    if unknown := sorted(set(kept) - known):
        raise OptionError(f"There is no choice “{unknown[0]}”.")
    hints = get_type_hints(Options)
    kept = {name: _answer(name, value) for name, value in kept.items()}
    for name, value in kept.items():
        allowed = NUMBERS.get(name) or get_args(hints[name])
        if value not in allowed:
            raise OptionError(f"For “{name}” there is {', '.join(map(str, allowed))}, but not {value!r}.")
    return Options(**kept)


def _answer(name: str, value: Any) -> Any:
    return int(value) if name in NUMBERS and str(value).isdecimal() else value


def options_to(options: Options) -> dict[str, Any]:
    """The plain form of options."""
    return asdict(options)
