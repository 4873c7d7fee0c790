"""Conditions and rules as JSON: how they are kept, and how they travel (docs/formats/rules.md)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any

from vinyl.core.rules import conditions as core
from vinyl.core.rules.conditions import AllOf, Condition, ConditionError

KINDS: Mapping[str, type[Any]] = {
    "all": core.AllOf,
    "any": core.AnyOf,
    "none": core.NoneOf,
    "words": core.Words,
    "text": core.TextIs,
    "between": core.Between,
    "added": core.Added,
    "last played": core.LastPlayed,
    "lately": core.Lately,
    "played at": core.PlayedAt,
    "last played at": core.LastPlayedAt,
    "never at": core.NeverAt,
    "key": core.KeyIs,
    "list": core.InList,
    "first": core.FirstOf,
    "tagged": core.Tagged,
    "backing": core.OverBacking,
    "locked": core.Locked,
    "flag": core.Is,
}


# Of which kinds the values of conditions are; those not named here are texts, or left open.
ALLOWED: Mapping[str, tuple[type, ...]] = {
    "parts": (list, tuple),
    "where": (dict,),
    "order": (list, tuple),
    "low": (int, float, type(None)),
    "high": (int, float, type(None)),
    **dict.fromkeys(("count", "list_id", "tag_id", "backing_id"), (int,)),
    **dict.fromkeys(("days", "venue_id"), (int, type(None))),
    "fits": (bool,),
}


@dataclass(frozen=True, slots=True)
class Rule:
    """What fills a list by itself: a condition, the order of what it finds, and how much of it at most."""

    where: Condition
    order: tuple[tuple[str, bool], ...] = (("added_at", True),)
    limit: int | None = None


def as_json(condition: Condition) -> dict[str, Any]:
    """A condition as an object that says in ``kind`` which it is."""
    kind = next(kind for kind, node in KINDS.items() if type(condition) is node)
    values = {field.name: getattr(condition, field.name) for field in fields(condition)}
    if "parts" in values:
        values["parts"] = [as_json(part) for part in values["parts"]]
    if "where" in values:
        values["where"] = as_json(values["where"])
    if "order" in values:
        values["order"] = _order_as_json(values["order"])
    return {"kind": kind, **values}


def from_json(value: Mapping[str, Any]) -> Condition:
    """The condition that an object stands for.

    Raises:
        ConditionError: if it stands for none.
    """
    values = dict(value)
    node = KINDS.get(str(values.pop("kind", None)))
    if node is None:
        raise ConditionError(f"There is no condition of the kind {value.get('kind')!r}.")
    _check_kinds(values)
    if "parts" in values:
        values["parts"] = tuple(from_json(part) for part in values["parts"])
    if "where" in values:
        values["where"] = from_json(values["where"])
    if "order" in values:
        values["order"] = _order(values["order"])
    try:
        made: Condition = node(**values)
    except TypeError as error:
        raise ConditionError(f"A condition of the kind {value['kind']!r} is not written so.") from error
    return made


def _check_kinds(values: Mapping[str, Any]) -> None:
    """Refuse values of a kind that no condition has: one wrong rule must not stop the counting of others."""
    for name, value in values.items():
        kinds = ALLOWED.get(name, (str, type(None)))
        if not isinstance(value, kinds) or (isinstance(value, bool) and bool not in kinds):
            raise ConditionError(f"In a condition “{name}” cannot be {value!r}.")


def rule_as_json(rule: Rule) -> dict[str, Any]:
    """A rule as an object."""
    return {"where": as_json(rule.where), "order": _order_as_json(rule.order), "limit": rule.limit}


def rule_from_json(value: Mapping[str, Any]) -> Rule:
    """The rule that an object stands for.

    Raises:
        ConditionError: if it stands for none.
    """
    where, limit = value.get("where"), value.get("limit")
    if limit is not None and (isinstance(limit, bool) or not isinstance(limit, int)):
        raise ConditionError(f"A rule's limit cannot be {limit!r}.")
    return Rule(from_json(where) if where is not None else AllOf(), _order(value.get("order", ())), limit)


def _order(value: Any) -> tuple[tuple[str, bool], ...]:
    return tuple((str(each["sort"]), bool(each.get("descending", False))) for each in value)


def _order_as_json(order: tuple[tuple[str, bool], ...]) -> list[dict[str, Any]]:
    return [{"sort": name, "descending": down} for name, down in order]
