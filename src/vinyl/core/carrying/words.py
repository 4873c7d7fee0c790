"""Texts, figures, key, comment, tags and colours of a track as another library has them."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

from vinyl.core.carrying.collection import Track
from vinyl.core.carrying.colours import colour_there
from vinyl.core.carrying.options import Options
from vinyl.core.carrying.outcomes import Fate, Kind, Outcome
from vinyl.core.carrying.traits import Traits
from vinyl.core.tag_form import ENERGY, SEPARATOR
from vinyl.core.tonal.key import parse_key

# What XML cannot hold, and what is no text at all.
UNWRITABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")
PLAIN = ("title", "artist", "remixer", "album", "label", "catalogue", "genre", "grouping", "composer",
         "language", "isrc", "year", "explicit", "never again", "wanted")  # fmt: skip
MARKED = ("explicit", "never again", "wanted")

Kept = tuple[Outcome, Mapping[str, str]]


def carry_words(track: Track, traits: Traits, options: Options) -> Iterator[Kept]:
    """Texts, numbers and ratings, field by field."""
    for name in PLAIN:
        if name == "grouping":
            yield from _grouping(track, traits, options)
        elif text := track.values.get(name):
            kind: Kind = "marks" if name in MARKED else "texts"
            yield _plain(kind, name, text, traits)
    yield from _key(track, traits, options)
    yield from _figures(track, traits)
    yield from _comment(track, traits, options)
    if colour := track.values.get("colour"):
        yield _colour(colour, traits, options)
    if marks := track.values.get("marks"):
        yield _plain("marks", "marks", marks, traits)
    for part in track.locks:
        yield Outcome("locks", "left here", f"lock on {part}", "locked", "", "it has no locks"), {}


def _plain(kind: Kind, name: str, text: str, traits: Traits) -> Kept:
    if name not in traits.words:
        return Outcome(kind, "left here", name, text, "", "it has no field for it"), {}
    there, why = _fitted(text, traits.words[name], traits.one_line, traits.quotes)
    fate: Fate = "changed" if why else "as it is"
    return Outcome(kind, fate, name, text, there, why), {name: there}


def _fitted(text: str, longest: int | None, one_line: bool = False, quotes: bool = True) -> tuple[str, str]:
    """A text as it can be written, and why it is another."""
    there, why = UNWRITABLE.sub("", text), []
    if there != text:
        why.append("without signs that cannot be shown")
    if not quotes and '"' in there:
        there = there.replace('"', "'")
        why.append("with other quotation marks")
    if one_line and there != " ".join(there.split()):
        there = " ".join(there.split())
        why.append("on one line")
    if longest is not None and len(there) > longest:
        there = there[:longest]
        why.append(f"cut off at {longest} characters")
    return there, "; ".join(why)


def _key(track: Track, traits: Traits, options: Options) -> Iterator[Kept]:
    text = track.values.get("key")
    if not text:
        return
    if "key" not in traits.words:
        yield _plain("key", "key", text, traits)
        return
    try:
        key = parse_key(text)
    except ValueError:
        if traits.key == "number":
            yield Outcome("key", "left here", "key", text, "", "this is no key that it knows"), {}
        else:
            yield _plain("key", "key", text, traits)
        return
    if traits.key == "number":
        number = str(2 * key.fifths + (key.mode == "minor"))
        yield Outcome("key", "as it is", "key", text, number), {"key": number}
        return
    there = key.written(options.notation)
    fate: Fate = "as it is" if there == text else "changed"
    why = "" if there == text else "another notation of the same key"
    yield Outcome("key", fate, "key", text, there, why, "notation"), {"key": there}


def _figures(track: Track, traits: Traits) -> Iterator[Kept]:
    if (stars := track.values.get("stars", "0")) != "0":
        yield _figure("stars", "stars", stars, str(int(stars) * traits.stars), traits)
    if (plays := track.values.get("plays", "0")) != "0":
        yield _figure("plays", "plays", plays, plays, traits)
    if traits.energy == "field" and (energy := track.values.get("energy")):
        yield _figure("energy", "energy", energy, energy, traits)


def _figure(kind: Kind, name: str, here: str, there: str, traits: Traits) -> Kept:
    if name not in traits.words:
        return Outcome(kind, "left here", name, here, "", "it has no field for it"), {}
    return Outcome(kind, "as it is", name, here, there), {name: there}


def _comment(track: Track, traits: Traits, options: Options) -> Iterator[Kept]:
    """The comment, with what has no field of its own put before or behind it."""
    if "comment" not in traits.words:
        yield from _no_comment(track)
        return
    own, why = track.values.get("comment", ""), ""
    parts = [own] if own else []
    outcomes: list[Outcome] = []
    if traits.energy == "comment" and (energy := track.values.get("energy", "")):
        outcomes.append(_energy(energy, options))
        if options.energy != "leave":
            parts, why = _with_energy(own, f"Energy {energy}", options)
    elif traits.energy == "comment" and without_energy(own) != own:
        why = "its energy is taken for the track’s on the way back"
    named = _tags(track, traits, options)
    outcomes += named
    if options.tags == "comment":
        parts += [outcome.there for outcome in named if outcome.fate == "changed"]
    there, cut = _fitted(SEPARATOR.join(parts), traits.words["comment"], traits.one_line)
    if own:
        why = "; ".join(filter(None, (why or ("" if there == own else "tags stand behind it"), cut)))
        gone = options.energy == "replace" and traits.energy == "comment" and "energy" in track.values
        fate: Fate = "as it is" if not why else "left here" if gone else "changed"
        outcomes.append(Outcome("comment", fate, "comment", own, there, why, "energy"))
    kept = {"comment": there} if there else {}
    for number, outcome in enumerate(outcomes):
        yield outcome, {} if number else kept


def _no_comment(track: Track) -> Iterator[Kept]:
    for name, kind in (("comment", "comment"), ("energy", "energy")):
        if text := track.values.get(name):
            yield Outcome(kind, "left here", name, text, "", "it has no field for it"), {}  # type: ignore[arg-type]
    for tag in track.tags:
        yield Outcome("tags", "left here", "tag", tag, "", "it has no tags"), {}


def _energy(energy: str, options: Options) -> Outcome:
    if options.energy == "leave":
        return Outcome("energy", "left here", "energy", energy, "", "it has no field for it", "energy")
    there = f"Energy {energy}"
    return Outcome("energy", "changed", "energy", energy, there, "it stands in the comment", "energy")


def _with_energy(own: str, energy: str, options: Options) -> tuple[list[str], str]:
    """The parts of a comment with an energy, and what that does to the comment."""
    if options.energy == "replace":
        return [energy], "the energy stands in its place"
    plain = without_energy(own)
    parts = filter(None, (plain, energy) if options.energy == "after" else (energy, plain))
    return list(parts), "the energy stands beside it" if plain == own else "an older energy in it is replaced"


def without_energy(comment: str) -> str:
    """A comment without an energy that stands in it."""
    return SEPARATOR.join(part for part in comment.split(SEPARATOR) if not ENERGY.fullmatch(part))


def _tags(track: Track, traits: Traits, options: Options) -> list[Outcome]:
    return [_tag(tag, traits, options) for tag in track.tags]


def _tag(tag: str, traits: Traits, options: Options) -> Outcome:
    name = tag.partition(": ")[2] or tag
    if traits.keeps_tags:
        return Outcome("tags", "as it is", "tag", tag, tag)
    if options.tags == "leave" or options.tags not in traits.words:
        return Outcome("tags", "left here", "tag", tag, "", "it has no tags", "tags")
    return Outcome("tags", "changed", "tag", tag, name, f"its name stands in the {options.tags}", "tags")


def _grouping(track: Track, traits: Traits, options: Options) -> Iterator[Kept]:
    """The grouping, with the names of tags behind it where that is wished for."""
    own = track.values.get("grouping", "")
    names = [each.there for each in _tags(track, traits, options) if each.fate == "changed"]
    if options.tags != "grouping" or not names:
        if own:
            yield _plain("texts", "grouping", own, traits)
        return
    there, cut = _fitted(SEPARATOR.join([*([own] if own else []), *names]), traits.words["grouping"])
    why = "; ".join(filter(None, ("tags stand behind it", cut)))
    yield Outcome("texts", "changed", "grouping", own, there, why, "tags"), {"grouping": there}


def _colour(colour: str, traits: Traits, options: Options) -> Kept:
    if "colour" not in traits.words or options.colours == "leave":
        return Outcome("colours", "left here", "track’s colour", colour, "", "", "colours"), {}
    there = colour_there(colour, traits.colours)
    return said_colour("track’s colour", colour, there, traits), {"colour": there} if there else {}


def said_colour(what: str, colour: str, there: str, traits: Traits) -> Outcome:
    if not there:
        return Outcome("colours", "left here", what, colour, "", "it has no grey", "colours")
    if traits.colours == "any":
        return Outcome("colours", "as it is", what, colour, there)
    return Outcome("colours", "changed", what, colour, there, "the nearest that it has", "colours")
