"""The cues, loops and routes of a track as points of another library."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from vinyl.core.carrying import places
from vinyl.core.carrying.card import Bank, Point
from vinyl.core.carrying.collection import Cue, Track
from vinyl.core.carrying.colours import colour_there
from vinyl.core.carrying.options import Options
from vinyl.core.carrying.outcomes import Kind, Outcome
from vinyl.core.carrying.traits import Traits, units
from vinyl.core.carrying.words import UNWRITABLE, said_colour
from vinyl.core.cues.bounds import ROLES

ROLE_COLON = ": "


def carry_cues(track: Track, traits: Traits, options: Options) -> tuple[tuple[Point, ...], list[Outcome]]:
    marks, found = _routes(track, options)
    if traits.places is None:
        points, outcomes = _listed(track, (*track.cues, *marks), traits, options)
    elif traits.loop_places is None:
        points, outcomes = _placed(track, (*track.cues, *marks), traits.places, "peg", traits, options)
    else:
        cues = tuple(cue for cue in (*track.cues, *marks) if not cue.is_loop)
        loops = tuple(cue for cue in track.cues if cue.is_loop)
        points, outcomes = _placed(track, cues, traits.places, "cue", traits, options)
        more, others = _placed(track, loops, traits.loop_places, "loop", traits, options)
        points, outcomes = (*points, *more), outcomes + others
    return points, found + outcomes


def _routes(track: Track, options: Options) -> tuple[tuple[Cue, ...], list[Outcome]]:
    """The jumps of routes as cues, where that is wished for."""
    marks: list[Cue] = []
    found = []
    for route in track.routes:
        here = f"{route.name}, {len(route.jumps)} jumps"
        if options.routes == "leave":
            found.append(Outcome("routes", "left here", "route", here, "", "it knows none", "routes"))
            continue
        if options.routes == "audio":
            there, why = f"{route.name}, a file", "an audio file of its own, in the list Routes"
            found.append(Outcome("routes", "changed", "route", here, there, why, "routes"))
            continue
        for number, (leaves, comes) in enumerate(route.jumps, 1):
            marks += [Cue(leaves, label=f"{route.name} {number} leave"),
                      Cue(comes, label=f"{route.name} {number} go on")]  # fmt: skip
        found.append(Outcome("routes", "changed", "route", here, "marks", "its jumps as cues", "routes"))
    return tuple(marks), found


def _placed(
    track: Track, cues: tuple[Cue, ...], count: int, bank: Bank, traits: Traits, options: Options
) -> tuple[tuple[Point, ...], list[Outcome]]:
    kept, left = places.choose(cues, count, options.places_by)
    numbers = places.number(kept, count, options.numbers)
    points, found = [], []
    for cue, number in zip(kept, numbers, strict=True):
        point, outcomes = _point(track, cue, bank, number, traits, options)
        points.append(point)
        found += outcomes
    why = f"its {count} {bank}s are full" if count else "a playlist has none"
    found += [Outcome(_kind(cue), "left here", *_said(cue), "", why, "places_by") for cue in left]
    return tuple(points), found


def _listed(
    track: Track, cues: tuple[Cue, ...], traits: Traits, options: Options
) -> tuple[tuple[Point, ...], list[Outcome]]:
    """Cues in an ordered list without limit, those on pads in numbered places too."""
    points: list[Point] = []
    found: list[Outcome] = []
    kept, _ = places.choose(cues, None, "time")
    for cue in kept:
        on_quick = cue.pad is not None and cue.pad <= traits.quick_places and options.banks != "list"
        if not on_quick and options.banks == "quick":
            why = "it stands on no pad, and only pads go into the quick places"
            found.append(Outcome(_kind(cue), "left here", *_said(cue), "", why, "banks"))
            continue
        place = sum(each.bank == "list" for each in points) + 1
        point, outcomes = _point(track, cue, "list", place, traits, options)
        found += outcomes
        if options.banks != "quick":
            points.append(point)
        if on_quick:
            points.append(replace(point, bank="quick", place=cue.pad or 0))
    points.sort(key=lambda each: (each.at, each.length or 0.0, each.bank, each.place))
    return tuple(points), found


def _point(
    track: Track, cue: Cue, bank: Bank, place: int, traits: Traits, options: Options
) -> tuple[Point, list[Outcome]]:
    shift = track.padding_s if traits.counts_padding else 0.0
    at = units(cue.position_s + shift, traits.units_per_second)
    length = None
    if cue.length_s is not None:
        length = units(cue.length_s, traits.units_per_second) or 1
    colour = "" if options.colours == "leave" else colour_there(cue.colour, traits.colours)
    name = _name(cue, options)
    point = Point(bank, place, at, length, name, colour, cue.engages and traits.keeps_engages)
    what, here = _said(cue)
    why = "; ".join(_reasons(cue, point, traits, options))
    there = f"{bank} {place}" + (f", {name}" if name else "")
    found = [Outcome(_kind(cue), "changed" if why else "as it is", what, here, there, why, "numbers")]
    if cue.colour and options.colours == "leave":
        found.append(Outcome("colours", "left here", what, cue.colour, "", "", "colours"))
    elif cue.colour:
        found.append(said_colour(what, cue.colour, colour, traits))
    return point, found


def _name(cue: Cue, options: Options) -> str:
    """A cue's name there: its role before its own."""
    label = UNWRITABLE.sub("", cue.label)
    if not cue.role or options.roles == "leave":
        return label
    return f"{cue.role}{ROLE_COLON}{label}" if label.casefold() not in ("", cue.role) else cue.role


def _reasons(cue: Cue, point: Point, traits: Traits, options: Options) -> Iterator[str]:
    if cue.role and options.roles == "names":
        yield "its role stands in its name"
    elif cue.role:
        yield "without its role"
    elif point.name in ROLES or point.name.startswith(tuple(role + ROLE_COLON for role in ROLES)):
        yield "its name is taken for a role on the way back"
    if point.bank in ("peg", "cue", "loop") and cue.pad is not None and cue.pad != point.place:
        yield f"pad {cue.pad} becomes {point.bank} {point.place}"
    if point.bank == "list" and cue.pad is not None and options.banks == "list":
        yield "without its pad"
    if cue.engages and not point.engages:
        yield "it does not engage by itself there"
    if UNWRITABLE.search(cue.label):
        yield "without signs that cannot be shown"


def _kind(cue: Cue) -> Kind:
    return "loops" if cue.is_loop else "cues"


def _said(cue: Cue) -> tuple[str, str]:
    """What a cue is called, and where it lies."""
    name = cue.label or cue.role or (f"pad {cue.pad}" if cue.pad else "a loop" if cue.is_loop else "a cue")
    length = f" for {cue.length_s:.3f} s" if cue.length_s is not None else ""
    return name, f"{cue.position_s:.3f} s{length}"
