"""Rules that fill crates, their lines, and reasons."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.conditions import ConditionIn, SortIn, to_core
from vinyl.api.models.shared import Id, Model, Name
from vinyl.core.rules.conditions import MOST_FIRST
from vinyl.core.rules.notation import Rule, rule_as_json


class RuleBody(Model):
    """What fills a crate by itself: a condition, the order of what it finds, and how much at most."""

    where: ConditionIn
    order: Annotated[list[SortIn], Field(min_length=1, max_length=6)]
    limit: Annotated[int, Field(ge=1, le=MOST_FIRST)] | None = None

    def to_core(self) -> Rule:
        """The rule as the core knows it."""
        order = tuple((each.sort, each.descending) for each in self.order)
        return Rule(to_core(self.where), order, self.limit)

    @classmethod
    def from_core(cls, rule: Rule) -> RuleBody:
        """The rule as it goes over the wire."""
        return cls.model_validate(rule_as_json(rule))


class WhereIn(Model):
    where: ConditionIn


class LineOut(Model):
    path: list[int]
    words: str
    alone: int
    left: int | None


class CountedOut(Model):
    lines: list[LineOut]
    total: int
    library: int
    emptied_by: int | None
    without: int


class WhyIn(Model):
    where: ConditionIn
    track_id: Id


class ReasonOut(Model):
    path: list[int]
    words: str
    holds: bool
    has: str | None


class RuleCrateIn(Model):
    name: Name
    folder_id: Id | None = None
    rule: RuleBody


class RulesIn(Model):
    crate_ids: Annotated[list[Id], Field(min_length=1, max_length=10_000)]


class SharedLineOut(Model):
    """A line of rules, and in how many of them it stands."""

    where: ConditionIn
    words: str
    rules: int


class ChangeLinesIn(RulesIn):
    """``new`` alone is added, ``old`` alone is taken away; with both, one takes the other's place."""

    old: ConditionIn | None = None
    new: ConditionIn | None = None


class LinesChanged(Model):
    rules: int


class FrozenIn(Model):
    name: Name


class RuleCount(Model):
    id: int
    tracks: int
    duration_s: float
