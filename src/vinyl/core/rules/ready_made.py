"""Rules for a start, each of which can be taken apart and changed like any other."""

from __future__ import annotations

from dataclasses import dataclass

from vinyl.core.rules.conditions import AllOf, AnyOf, Between, Is, Lately, Locked, NoneOf
from vinyl.core.rules.notation import Rule

NEWEST = (("added_at", True),)
LEAST_PLAYED = (("plays", False), ("last_played", False))
MOST_DOUBT = (("doubt", True),)
UNSURE = 0.3


@dataclass(frozen=True, slots=True)
class ReadyMade:
    """A rule with a name and what it is good for."""

    name: str
    says: str
    rule: Rule


READY_MADE = (
    ReadyMade("In no crate", "what has been put nowhere yet", Rule(NoneOf((Is("in a crate"),)), NEWEST)),
    ReadyMade(
        "New and untagged",
        "added in the last 30 days, without a tag",
        Rule(AllOf((Lately("added_at", 30), NoneOf((Is("has tags"),)))), NEWEST),
    ),
    ReadyMade(
        "Bought and never played", "not one play is known", Rule(Between("plays", None, 0), NEWEST)
    ),
    ReadyMade("The 50 least played", "always fifty of them", Rule(AllOf(), LEAST_PLAYED, 50)),
    ReadyMade(
        "Rested three months",
        "played before, but not in the last 90 days",
        Rule(AllOf((Between("plays", 1, None), NoneOf((Lately("last_played", 90),)))), LEAST_PLAYED),
    ),
    ReadyMade(
        "Grids to look at",
        "the analysis doubts them, and nobody has locked them",
        Rule(AllOf((Between("doubt", UNSURE, None), NoneOf((Locked("grid"),)))), MOST_DOUBT),
    ),
    ReadyMade("Without cues", "not one point is set", Rule(Between("cue_count", None, 0), NEWEST)),
    ReadyMade(
        "Double entries", "the same artist and title more than once",
        Rule(Is("double entry"), (("artist", False), ("title", False))),
    ),
    ReadyMade(
        "To be got better",
        "wanted in a better file, away, or with a flaw in the sound",
        Rule(AnyOf((Is("wanted"), Is("away"), Is("has findings"))), NEWEST),
    ),
)  # fmt: skip
