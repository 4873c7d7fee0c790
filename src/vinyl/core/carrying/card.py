"""A track as another library keeps it, in that library's own units: what is written and what is read back."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

Bank = Literal["peg", "cue", "loop", "list", "quick"]
# What a card may hold: more is nonsense, or meant to hurt.
LONGEST_TEXT, LONGEST_PATH = 20_000, 4_096
MOST_WORDS, MOST_STEPS, MOST_POINTS, MOST_TAGS = 200, 100_000, 2_000, 500


@dataclass(frozen=True, slots=True)
class Step:
    """A beat at a time; ``bpm`` goes on where no neighbour says otherwise."""

    at: float
    beat: float
    bpm: float


@dataclass(frozen=True, slots=True)
class Point:
    """A cue, or a loop where it has a length. ``place`` is the number in its bank, from 1."""

    bank: Bank
    place: int
    at: float
    length: float | None = None
    name: str = ""
    colour: str = ""
    engages: bool = False


@dataclass(frozen=True, slots=True)
class Card:
    """A track of another library. ``words`` are its texts by field, numbers among them as text.

    ``settled`` says that the other program is not to analyse it again.
    """

    path: str
    words: Mapping[str, str] = field(default_factory=dict)
    steps: tuple[Step, ...] = ()
    beats_per_bar: int = 4
    settled: bool = False
    points: tuple[Point, ...] = ()
    tags: tuple[str, ...] = ()

    def told(self) -> dict[str, Any]:
        """The card in plain form, as the stand-ins' own readers tell it."""
        return {
            "path": self.path,
            "words": dict(sorted(self.words.items())),
            "steps": [[step.at, step.beat, step.bpm] for step in self.steps],
            "beats_per_bar": self.beats_per_bar,
            "settled": self.settled,
            "points": [
                [each.bank, each.place, each.at, each.length, each.name, each.colour, each.engages]
                for each in self.points
            ],
            "tags": list(self.tags),
        }


def card_of(told: Mapping[str, Any]) -> Card:
    """A card from its plain form."""
    return Card(
        told["path"],
        told["words"],
        tuple(Step(*each) for each in told["steps"]),
        told["beats_per_bar"],
        told["settled"],
        tuple(Point(*each) for each in told["points"]),
        tuple(told["tags"]),
    )


def checked(card: Card) -> Card:
    """The card itself, if its values are of the kinds that they are said to be, and no more than can be.

    Raises:
        ValueError: if not, as other programs' files may hold anything.
    """
    if len(card.words) > MOST_WORDS or len(card.steps) > MOST_STEPS or len(card.points) > MOST_POINTS:
        raise ValueError("it holds too much")
    if len(card.tags) > MOST_TAGS or len(card.path) > LONGEST_PATH:
        raise ValueError("it holds too much")
    numbers = [part for step in card.steps for part in (step.at, step.beat, step.bpm)]
    numbers += [part for each in card.points for part in (each.at, each.length or 0, each.place)]
    texts = [*card.words, *card.words.values(), *card.tags, card.path]
    texts += [text for each in card.points for text in (each.name, each.colour)]
    try:
        sound = all(math.isfinite(float(number)) for number in numbers if not isinstance(number, str))
    except (TypeError, OverflowError) as error:
        raise ValueError("a number in it is none") from error
    if not sound or any(isinstance(number, str) for number in numbers):
        raise ValueError("a number in it is none")
    if not all(isinstance(text, str) for text in texts) or not isinstance(card.beats_per_bar, int):
        raise ValueError("a text in it is none")
    if any(len(text) > LONGEST_TEXT for text in texts):
        raise ValueError(f"a text in it is longer than {LONGEST_TEXT:,} letters")
    return card
