"""What people call things when they say what they look for: fields, units, comparisons, orders, facts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, get_args

from vinyl.core.rules.conditions import (
    Between,
    Condition,
    How,
    Is,
    Locked,
    NoneOf,
    NumberField,
    Part,
    TextField,
    TextIs,
)
from vinyl.core.rules.phrases import PLAIN

Side = Literal["low", "high", "above", "below", "about"]

NUMBER_NAMES: Mapping[str, NumberField] = {
    **dict.fromkeys(("tempo", "bpm", "speed"), "bpm"),
    **dict.fromkeys(("energy",), "energy"),
    **dict.fromkeys(("stars", "star", "rating", "rated"), "rating"),
    **dict.fromkeys(("year", "released", "release year"), "year"),
    **dict.fromkeys(("length", "duration", "long"), "duration_s"),
    **dict.fromkeys(("loudness", "lufs", "level"), "lufs"),
    **dict.fromkeys(("doubt",), "doubt"),
    **dict.fromkeys(("cues", "cue", "cue count"), "cue_count"),
    **dict.fromkeys(("plays", "play count", "times played"), "plays"),
    **dict.fromkeys(("bitrate", "bit rate"), "bit_rate"),
    **dict.fromkeys(("routes",), "route_count"),
}
# Units, with what a number of them is multiplied by. A unit alone says which field is meant.
UNITS: Mapping[str, tuple[NumberField, float]] = {
    **dict.fromkeys(("bpm",), ("bpm", 1.0)),
    **dict.fromkeys(("star", "stars"), ("rating", 1.0)),
    **dict.fromkeys(("min", "mins", "minute", "minutes"), ("duration_s", 60.0)),
    **dict.fromkeys(("s", "sec", "secs", "second", "seconds"), ("duration_s", 1.0)),
    **dict.fromkeys(("lufs", "db"), ("lufs", 1.0)),
    **dict.fromkeys(("kbps", "kbit", "kbits", "kbit/s"), ("bit_rate", 1000.0)),
    **dict.fromkeys(("cue", "cues"), ("cue_count", 1.0)),
    **dict.fromkeys(("play", "plays"), ("plays", 1.0)),
    **dict.fromkeys(("route", "routes"), ("route_count", 1.0)),
}
# Whole numbers: more than three of them are four.
COUNTED: frozenset[NumberField] = frozenset(
    ("rating", "year", "cue_count", "plays", "route_count", "went_well", "fell_flat", "asked_for")
)
SIDES: Mapping[str, Side] = {
    **dict.fromkeys((">", "over", "above", "more than", "greater than", "higher than", "after"), "above"),
    **dict.fromkeys((">=", "≥", "at least", "from", "min", "minimum", "since", "no less than"), "low"),
    **dict.fromkeys(("<", "under", "below", "less than", "fewer than", "lower than", "before"), "below"),
    **dict.fromkeys(("<=", "≤", "at most", "up to", "max", "maximum", "no more than", "until"), "high"),
    **dict.fromkeys(("around", "about", "near", "roughly", "circa", "approximately", "~"), "about"),
}
AFTER_NUMBER: Mapping[str, Side] = {
    **dict.fromkeys(
        ("or more", "+", "plus", "and up", "and above", "or over", "or higher", "upwards"), "low"
    ),
    **dict.fromkeys(("or less", "or fewer", "and below", "or under", "or lower"), "high"),
}
COMPARATIVES: Mapping[str, tuple[NumberField, Side]] = {
    "faster than": ("bpm", "above"), "slower than": ("bpm", "below"),
    "longer than": ("duration_s", "above"), "shorter than": ("duration_s", "below"),
    "louder than": ("lufs", "above"), "quieter than": ("lufs", "below"), "softer than": ("lufs", "below"),
    "newer than": ("year", "above"), "older than": ("year", "below"),
}  # fmt: skip
TIMES: Mapping[str, NumberField] = {
    "played": "plays", "went well": "went_well", "fell flat": "fell_flat", "asked for": "asked_for",
}  # fmt: skip
DECADES: Mapping[str, int] = {
    "fifties": 1950, "sixties": 1960, "seventies": 1970, "eighties": 1980, "nineties": 1990,
}  # fmt: skip
ADDED = ("added", "bought", "arrived", "came in", "imported", "new")
PLAYED = ("last played", "played")
TEXT_NAMES: Mapping[str, TextField] = {
    **{name: name for name in ("title", "artist", "album", "label", "comment", "remixer", "composer",
                               "language", "grouping", "catalogue", "isrc", "colour", "marks")},
    **dict.fromkeys(("style", "genre"), "genre"), "color": "colour",
    **dict.fromkeys(("format", "file type", "codec"), "codec"), "by": "artist", "on": "label",
    "on label": "label", "from label": "label",
    "released on": "label", "remixed by": "remixer", "called": "title",
    "named": "title", **dict.fromkeys(("file name", "filename", "file"), "file_name"),
    **dict.fromkeys(("folder", "in folder", "in the folder", "directory"), "folder"),
    "composed by": "composer", "written by": "composer", "marked": "colour",
}  # fmt: skip
# Words that are fields only before a name.
LOOSE = ("by", "on", "marked")
# Fields whose texts are names: they are said whole. Of the others a part is said.
WHOLE: tuple[TextField, ...] = ("genre", "artist", "label", "colour", "codec")
FORMATS = ("mp3", "flac", "wav", "aiff", "m4a", "aac", "alac", "opus", "ogg")
HOW_WORDS: Mapping[str, How] = {
    **dict.fromkeys(("is", ":", "=", "equals"), "is"),
    **dict.fromkeys(("contains", "has", "with", "including", "includes"), "contains"),
    **dict.fromkeys(("begins with", "begins", "starts with", "starts"), "begins"),
    "like": "like",
}
# Of folders alone it can be said that something lies under them.
FOLDER_HOW_WORDS: Mapping[str, How] = {**HOW_WORDS, "under": "under"}
DENIED_HOW: Mapping[str, How] = {
    **dict.fromkeys(("is not", "isn't", "not"), "is"),
    **dict.fromkeys(("does not contain", "doesn't contain", "without", "has no"), "contains"),
    **dict.fromkeys(("does not begin with", "does not begin"), "begins"),
}
NOT = (
    "not",
    "no",
    "without",
    "except",
    "excluding",
    "never",
    "anything but",
    "everything but",
    "isn't",
    "nothing",
)
FITS = ("fits", "key fits", "goes with", "compatible with", "mixes with", "in key with", "matches")
IS_KEY = ("key is", "key of", "key", "in the key of", "in key", "in")
EMPTY: Mapping[str, TextField] = {
    "genre": "genre", "style": "genre", "label": "label", "artist": "artist", "album": "album",
    "comment": "comment", "colour": "colour", "color": "colour", "title": "title",
}  # fmt: skip


def _no(condition: Condition) -> Condition:
    return NoneOf((condition,))


_UNPLAYED = Between("plays", None, 0)
_UNRATED = Between("rating", None, 0)
_UNLISTED = _no(Is("in a crate"))
_NO_PICTURE = _no(Is("has picture"))
# What is said in words of its own.
SAID: Mapping[str, Condition] = {
    **PLAIN,
    **{f"no {name.removeprefix('without ')}": made
       for name, made in PLAIN.items() if name.startswith("without ")},
    **{f"no {name.split(maxsplit=2)[2]}": made
       for name, made in PLAIN.items() if name.startswith(("without a ", "without an "))},
    **dict.fromkeys(("never played", "not played", "unplayed", "not yet played", "no plays"), _UNPLAYED),
    **dict.fromkeys(("no tempo", "no bpm", "without bpm"), PLAIN["without tempo"]),
    **dict.fromkeys(("unrated", "not rated", "no stars", "no rating", "without rating"), _UNRATED),
    "rated": Between("rating", 1, None),
    **dict.fromkeys(("high energy", "energetic"), Between("energy", 70, None)),
    "low energy": Between("energy", None, 35),
    **dict.fromkeys(("untagged", "no tags"), PLAIN["without tags"]), "tagged": Is("has tags"),
    **dict.fromkeys(("no explicit", "clean", "no explicit lyrics"), _no(Is("explicit"))),
    **dict.fromkeys(("double entries", "doubles", "duplicates"), Is("double entry")),
    **dict.fromkeys(("wanted", "wanted better"), Is("wanted")),
    **dict.fromkeys(("missing", "offline", "file missing", "missing file", "file away"), Is("away")),
    **dict.fromkeys(("with cover", "with artwork", "has artwork", "has a cover"), Is("has picture")),
    **dict.fromkeys(("no cover", "no artwork", "no picture"), _NO_PICTURE),
    **dict.fromkeys(("without cover", "without artwork"), _NO_PICTURE),
    "analysed": Is("analysed"), "analyzed": Is("analysed"),
    "not analyzed": _no(Is("analysed")), "unanalysed": _no(Is("analysed")),
    **dict.fromkeys(("clipped", "clipping"), Is("clipped")),
    **dict.fromkeys(("not in a crate", "not in any crate", "in no list", "not in any list"), _UNLISTED),
    "in any crate": Is("in a crate"),
    **{f"locked {part}": Locked(part) for part in get_args(Part)},
    **{f"{part} not locked": _no(Locked(part)) for part in get_args(Part)},
    **{f"no {name}": TextIs(field, "") for name, field in EMPTY.items()},
    **{f"without {name}": TextIs(field, "") for name, field in EMPTY.items()},
    **{f"{name} empty": TextIs(field, "") for name, field in TEXT_NAMES.items()},
}  # fmt: skip
SORTS: Mapping[str, tuple[str, bool]] = {
    "most played": ("plays", True), "least played": ("plays", False), "newest": ("added_at", True),
    "oldest": ("added_at", False), "fastest": ("bpm", True), "slowest": ("bpm", False),
    "longest": ("duration_s", True), "shortest": ("duration_s", False), "loudest": ("lufs", True),
    "quietest": ("lufs", False), "highest rated": ("rating", True), "best rated": ("rating", True),
    "lowest rated": ("rating", False), "recently played": ("last_played", True),
    "recently added": ("added_at", True), "most energetic": ("energy", True),
    "calmest": ("energy", False), "a to z": ("title", False), "z to a": ("title", True),
}  # fmt: skip
SORT_BY = ("sorted by", "sort by", "ordered by", "order by", "by")
SORT_FIELDS: Mapping[str, str] = {
    "tempo": "bpm", "bpm": "bpm", "key": "key", "energy": "energy", "stars": "rating", "rating": "rating",
    "year": "year", "length": "duration_s", "duration": "duration_s", "loudness": "lufs", "title": "title",
    "artist": "artist", "album": "album", "label": "label", "style": "genre", "genre": "genre",
    "date added": "added_at", "added": "added_at", "plays": "plays", "last played": "last_played",
}  # fmt: skip
DOWN = ("highest first", "newest first", "longest first", "descending", "down", "z first", "downwards")
UP = ("lowest first", "oldest first", "shortest first", "ascending", "up", "a first", "upwards")
# What leads to a name of some kind (a class of vinyl.core.rules.conditions).
NAMED: tuple[tuple[tuple[str, ...], str], ...] = (
    (("tag", "tagged", "with tag", "with the tag", "with"), "Tagged"),
    (("in crate", "in list", "in playlist", "in the crate", "in the list", "in", "from crate"), "InList"),
    (("backing", "over"), "OverBacking"),
)
AT_VENUE = ("played at", "not played at", "never played at", "last played at", "never again at", "at")
LANGUAGES = frozenset((
    "english", "spanish", "french", "german", "italian", "portuguese", "dutch", "swedish", "norwegian",
    "danish", "finnish", "polish", "russian", "ukrainian", "turkish", "greek", "arabic", "hebrew",
    "japanese", "chinese", "korean", "hindi", "romanian", "hungarian", "czech", "catalan", "yoruba",
    "swahili",
))  # fmt: skip
