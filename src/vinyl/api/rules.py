"""Crates that fill themselves: their rules, counted line by line, and why a track is in one or not."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.models.conditions import to_core
from vinyl.api.models.crates import CrateOut
from vinyl.api.models.rules import (
    ChangeLinesIn,
    CountedOut,
    FrozenIn,
    LinesChanged,
    ReasonOut,
    RuleBody,
    RuleCount,
    RuleCrateIn,
    RulesIn,
    SharedLineOut,
    WhereIn,
    WhyIn,
)
from vinyl.api.services import Use
from vinyl.core.rules.notation import as_json
from vinyl.library import rule_lists, shared_lines
from vinyl.library.errors import NotFoundError
from vinyl.operations import crates

router = APIRouter(prefix="/api", tags=["rules"])


@router.post("/rules/lines")
def count_lines(use: Use, wanted: WhereIn) -> CountedOut:
    """What each line of a rule says, how many tracks it holds alone, and how many are left so far."""
    return CountedOut.model_validate(rule_lists.count_lines(use.database.read(), to_core(wanted.where)))


@router.post("/rules/why")
def tell_why(use: Use, wanted: WhyIn) -> list[ReasonOut]:
    """Each part of a rule, and whether a track meets it; the whole comes first."""
    reasons = rule_lists.why(use.database.read(), to_core(wanted.where), wanted.track_id)
    return [ReasonOut.model_validate(reason) for reason in reasons]


@router.get("/rules/counts")
def count_rules(use: Use) -> list[RuleCount]:
    """How many tracks are in each crate that fills itself."""
    counts = use.keeper.counts()
    return [RuleCount(id=i, tracks=tracks, duration_s=length) for i, (tracks, length) in counts.items()]


@router.post("/rules", status_code=201)
def make_rule_crate(use: Use, wanted: RuleCrateIn) -> CrateOut:
    """Make a crate that fills itself."""
    made = crates.make_rule_crate(use.database, wanted.name, wanted.rule.to_core(), wanted.folder_id)
    return CrateOut.model_validate(made)


@router.post("/rules/shared")
def list_shared_lines(use: Use, wanted: RulesIn) -> list[SharedLineOut]:
    """The lines of some rules, those that most of them have first."""
    found = shared_lines.shared_lines(use.database.read(), wanted.crate_ids)
    return [
        SharedLineOut.model_validate({"where": as_json(line.where), "words": line.words, "rules": line.rules})
        for line in found
    ]


@router.post("/rules/shared/change")
def change_shared_lines(use: Use, wanted: ChangeLinesIn) -> LinesChanged:
    """Add a line to many rules, change it or take it away."""
    old, new = (None if each is None else to_core(each) for each in (wanted.old, wanted.new))
    return LinesChanged(rules=crates.change_lines(use.database, wanted.crate_ids, old, new))


@router.get("/crates/{crate_id}/rule")
def get_rule(use: Use, crate_id: int) -> RuleBody:
    """The rule of a crate that fills itself."""
    rule = rule_lists.get_rule(use.database.read(), crate_id)
    if rule is None:
        raise NotFoundError("This crate has no rule: it is filled by hand.")
    return RuleBody.from_core(rule)


@router.put("/crates/{crate_id}/rule")
def change_rule(use: Use, crate_id: int, rule: RuleBody) -> RuleBody:
    """Give a crate that fills itself another rule."""
    crates.change_rule(use.database, crate_id, rule.to_core())
    return rule


@router.post("/crates/{crate_id}/freeze", status_code=201)
def freeze_crate(use: Use, crate_id: int, wanted: FrozenIn) -> CrateOut:
    """Make a crate by hand of what is in one that fills itself now."""
    return CrateOut.model_validate(crates.freeze(use.database, crate_id, wanted.name))
