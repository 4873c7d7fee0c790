"""Clearance: whether the recording of a set may be published, by what is known of each track's rights."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal, get_args

from vinyl.core.text import fold

# From what stands in nobody's way to what stands in the way of all; what is not known weighs most of what
# may still turn out well.
State = Literal["free", "shared income", "muted", "unknown", "blocked"]
STATES: tuple[State, ...] = get_args(State)
Verdict = Literal["yes", "not everywhere", "not known", "no"]
BY_HAND = "by hand"
# Other words that people write for the same.
WORDS: dict[str, State] = {
    **{each: each for each in STATES},
    "": "unknown",
    "not known": "unknown",
    "?": "unknown",
    "open": "unknown",
    "ok": "free",
    "cleared": "free",
    "clear": "free",
    "allowed": "free",
    "public domain": "free",
    "shared": "shared income",
    "monetised": "shared income",
    "monetized": "shared income",
    "mute": "muted",
    "silenced": "muted",
    "block": "blocked",
    "forbidden": "blocked",
}


@dataclass(frozen=True, slots=True)
class Ruling:
    """What is known of the right to publish a track within a recording.

    Attributes:
        places: where that holds, as people name countries; everywhere if there are none.
        condition: on which condition.
        source: who said so.
        on_day: when, as an ISO date; empty where that is not known.
    """

    state: State = "unknown"
    places: tuple[str, ...] = ()
    condition: str = ""
    source: str = ""
    on_day: str = ""

    @property
    def words(self) -> str:
        """What it says, for people."""
        where = f" in {', '.join(self.places)}" if self.places else ""
        return f"{self.state}{where}{f', {self.condition}' if self.condition else ''}"

    @property
    def is_doubtful(self) -> bool:
        """Whether somebody has to look at it before a recording is published."""
        return self.state in ("unknown", "muted", "blocked")


@dataclass(frozen=True, slots=True)
class Publication:
    """Whether a recording may be published, and what of its tracks says so, in words."""

    may: Verdict
    words: tuple[str, ...]


def parse_state(text: str) -> State | None:
    """The state that a word means; None if it is none."""
    return WORDS.get(" ".join(fold(text).split()))


def parse_places(text: str) -> tuple[str, ...]:
    """Places, each once, as they are written between commas, semicolons or bars."""
    parts = text.replace(";", ",").replace("|", ",").split(",")
    found: dict[str, str] = {}
    for part in parts:
        name = " ".join(part.split())
        if name:
            found.setdefault(fold(name), name)
    return tuple(found.values())


def together(rulings: Iterable[Ruling]) -> Ruling:
    """Several that were said of one track by one source: the gravest holds, where any of them says so."""
    by_weight = sorted(rulings, key=lambda each: STATES.index(each.state), reverse=True)
    if not by_weight:
        return Ruling()
    gravest = [each for each in by_weight if each.state == by_weight[0].state]
    everywhere = any(not each.places for each in gravest)
    places = () if everywhere else parse_places(",".join(", ".join(each.places) for each in gravest))
    conditions = dict.fromkeys(each.condition for each in gravest if each.condition)
    return replace(gravest[0], places=places, condition="; ".join(conditions))


def publication(rulings: Sequence[Ruling]) -> Publication:
    """Whether the recording of tracks with these rulings may be published."""
    blocked = [each for each in rulings if each.state == "blocked"]
    everywhere = [each for each in blocked if not each.places]
    unknown = sum(each.state == "unknown" for each in rulings)
    places = parse_places(",".join(",".join(each.places) for each in blocked))
    muted = sum(each.state == "muted" for each in rulings)
    shared = sum(each.state == "shared income" for each in rulings)
    may: Verdict = "not everywhere" if places or muted else "yes"
    if unknown or not rulings:
        may = "not known"
    if everywhere:
        may = "no"
    words = (
        f"{_tracks(len(everywhere))} blocked everywhere" if everywhere else "",
        f"not in {', '.join(places)}" if places else "",
        f"nothing known of {_tracks(unknown)}" if unknown else "",
        f"silent while {_tracks(muted)} {'plays' if muted == 1 else 'play'}" if muted else "",
        f"income of {_tracks(shared)} shared" if shared else "",
    )
    return Publication(may, tuple(filter(None, words)))


def _tracks(count: int) -> str:
    return "one track" if count == 1 else f"{count} tracks"


def caution_of(ruling: Ruling) -> str:
    """What a ruling says against a track in a set; empty where it says nothing against it."""
    if ruling.state not in ("muted", "blocked"):
        return ""
    where = f" in {', '.join(ruling.places)}" if ruling.places else ""
    return f"{ruling.state}{where} in a recording"
