"""A track of another library as it is here: the way back of vinyl.core.carrying.carry."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from vinyl.core.carrying.card import Card, Point
from vinyl.core.carrying.collection import Cue, Track
from vinyl.core.carrying.colours import colour_here
from vinyl.core.carrying.points import ROLE_COLON
from vinyl.core.carrying.steps import grid_of
from vinyl.core.carrying.traits import Traits, seconds
from vinyl.core.carrying.words import without_energy
from vinyl.core.cues.bounds import MOST_PADS, ROLES
from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.tag_form import ENERGY, SEPARATOR
from vinyl.core.tonal.key import TONICS, Key, parse_key

MOST_STARS = 5


def bring(
    card: Card, traits: Traits, key: str, padding_s: float, duration_s: float
) -> tuple[Track, list[str]]:
    """A card as a track of ours, and in words what of it cannot be.

    Args:
        key: the track's name here.
        padding_s: the padding of its file before the first sample.
    """
    problems: list[str] = []
    grid = _grid(card, traits, padding_s, problems)
    cues = _cues(card, traits, padding_s, duration_s, problems)
    values = _values(card, traits, problems)
    return (
        Track(key, card.path, duration_s, padding_s, False, values, grid, cues, (), card.tags),
        problems,
    )


def _grid(card: Card, traits: Traits, padding_s: float, problems: list[str]) -> TempoMap | None:
    if not card.steps:
        return None
    try:
        return grid_of(card.steps, card.beats_per_bar, traits, padding_s)
    except TempoMapError as error:
        problems.append(f"Its grid is none: {error}")
        return None


def _cues(
    card: Card, traits: Traits, padding_s: float, duration_s: float, problems: list[str]
) -> tuple[Cue, ...]:
    shift = padding_s if traits.counts_padding else 0.0
    found: list[Cue] = []
    quick = [point for point in card.points if point.bank == "quick"]
    for point in card.points:
        if point.bank == "quick":
            continue
        twin = next((each for each in quick if _same(each, point)), None)
        if twin is not None:
            quick.remove(twin)
        found.append(_cue(point, twin.place if twin else None, traits, shift))
    found += [_cue(point, point.place, traits, shift) for point in quick]
    inside = []
    for cue in _pads_once(found):
        if -0.05 <= cue.position_s < duration_s or duration_s <= 0.0:
            inside.append(cue)
        else:
            problems.append(f"A cue at {cue.position_s:.1f} s lies outside the track.")
    return tuple(sorted(inside, key=lambda cue: (cue.position_s, cue.length_s or 0.0)))


def _same(one: Point, other: Point) -> bool:
    return (one.at, one.length, one.name) == (other.at, other.length, other.name)


def _cue(point: Point, quick: int | None, traits: Traits, shift: float) -> Cue:
    pad = quick if traits.quick_places else point.place if point.bank != "loop" else None
    role, colon, label = point.name.partition(ROLE_COLON)
    if role not in ROLES or not (colon or point.name == role):
        role, label = "", point.name
    position_s = seconds(point.at, traits.units_per_second) - shift
    return Cue(
        max(0.0, position_s) if position_s > -0.05 else position_s,
        seconds(point.length, traits.units_per_second) if point.length else None,
        label,
        role or None,
        colour_here(point.colour, traits.colours),
        pad if pad is not None and 1 <= pad <= MOST_PADS else None,
        point.engages,
    )


def _pads_once(cues: Sequence[Cue]) -> list[Cue]:
    """Cues of which each pad and each role is had by the first that says so."""
    pads: set[int] = set()
    roles: set[str] = set()
    kept = []
    for cue in cues:
        pad = None if cue.pad in pads else cue.pad
        role = None if cue.role in roles else cue.role
        pads |= {pad} if pad else set()
        roles |= {role} if role else set()
        kept.append(replace(cue, pad=pad, role=role))
    return kept


def _values(card: Card, traits: Traits, problems: list[str]) -> dict[str, str]:
    values = {name: text for name, text in card.words.items() if text}
    for name, read in (("stars", _stars), ("key", _key), ("colour", _colour)):
        if name in values:
            text = read(values.pop(name), traits)
            if text is None:
                problems.append(f"Its {name} “{card.words[name]}” is not understood.")
            elif text:
                values[name] = text
    if traits.energy == "comment":
        _energy(values)
    return values


def _stars(text: str, traits: Traits) -> str | None:
    try:
        stars = round(int(text) / traits.stars)
    except ValueError:
        return None
    return str(stars) if 0 < stars <= MOST_STARS else "" if stars == 0 else None


def _key(text: str, traits: Traits) -> str | None:
    try:
        if traits.key == "text":
            return str(parse_key(text))
        fifths, minor = divmod(int(text), 2)
    except ValueError:
        return None if traits.key == "number" else text
    if not 0 <= fifths < 12:
        return None
    major = Key(fifths * 7 % len(TONICS), "major")
    return str(major.relative if minor else major)


def _colour(text: str, traits: Traits) -> str | None:
    try:
        return colour_here(text, traits.colours)
    except ValueError:
        return None


def _energy(values: dict[str, str]) -> None:
    """Take the energy out of a comment that Vinyl wrote it into."""
    parts = values.get("comment", "").split(SEPARATOR)
    energy = next((part for part in parts if ENERGY.fullmatch(part)), None)
    if energy is None:
        return
    values["energy"] = energy.removeprefix("Energy ").removeprefix("E")
    values.pop("comment")
    if rest := without_energy(SEPARATOR.join(parts)):
        values["comment"] = rest
