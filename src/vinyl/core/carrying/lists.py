"""Lists as another library is to have them: on one level or in folders, rules said where it knows them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from vinyl.core.carrying.collection import Node, walk
from vinyl.core.carrying.options import Options
from vinyl.core.carrying.outcomes import Outcome
from vinyl.core.carrying.traits import Traits

# Between the names of folders and of their list, where there are no folders.
FLAT = " – "
# Conditions that a library with rules understands, joined by "all": from where to where, or a text.
RULE_NUMBERS: Mapping[str, str] = {"bpm": "tempo", "rating": "stars", "year": "year", "energy": "energy"}
RULE_TEXTS: Mapping[str, str] = {"genre": "genre", "artist": "artist", "label": "label"}
NUMBERS_HERE = {there: here for here, there in RULE_NUMBERS.items()}


def carry_lists(
    nodes: tuple[Node, ...], traits: Traits, options: Options
) -> tuple[tuple[Node, ...], list[Outcome]]:
    """Lists as a library is to have them, and what became of each."""
    outcomes: list[Outcome] = []
    there = tuple(made for node in nodes if (made := _carry(node, traits, options, outcomes)) is not None)
    if not traits.keeps_folders:
        there = _flat(there, options, outcomes)
    return there, outcomes


def _carry(node: Node, traits: Traits, options: Options, outcomes: list[Outcome]) -> Node | None:
    if node.kind == "folder":
        inner = tuple(made for each in node.inner if (made := _carry(each, traits, options, outcomes)))
        if traits.keeps_folders:
            outcomes.append(Outcome("lists", "as it is", node.name, "folder", "folder"))
        return Node(node.name, "folder", inner=inner)
    outcomes += _left(node)
    if node.kind == "rule list":
        return _rule_list(node, traits, options, outcomes)
    if traits.keeps_folders:
        outcomes.append(Outcome("lists", "as it is", node.name, _many(node), _many(node)))
    return Node(node.name, "list", node.tracks)


def _left(node: Node) -> Iterable[Outcome]:
    if node.dividers:
        yield Outcome("lists", "left here", node.name, f"{node.dividers} dividers", "", "it has none")
    if node.wanted:
        why = "a list there holds files only"
        yield Outcome("lists", "left here", node.name, f"{node.wanted} wanted", "", why)


def _rule_list(node: Node, traits: Traits, options: Options, outcomes: list[Outcome]) -> Node | None:
    rule = rule_there(node.rule or {}) if traits.rules == "part" else None
    if rule is not None:
        outcomes.append(Outcome("rule lists", "as it is", node.name, _many(node), "fills itself there too"))
        return Node(node.name, "rule list", node.tracks, rule=rule)
    why = "it has no rules" if traits.rules == "none" else "its rules cannot say this one"
    if options.rules == "leave":
        outcomes.append(Outcome("rule lists", "left here", node.name, _many(node), "", why, "rules"))
        return None
    there = f"{_many(node)} of today"
    outcomes.append(Outcome("rule lists", "changed", node.name, "fills itself", there, why, "rules"))
    return Node(node.name, "list", node.tracks)


def _flat(nodes: tuple[Node, ...], options: Options, outcomes: list[Outcome]) -> tuple[Node, ...]:
    found: list[Node] = []
    names: set[str] = set()
    for within, node in walk(nodes):
        if node.kind == "folder":
            continue
        path = (*within, node.name) if options.folders == "names" else (node.name,)
        name = _free(FLAT.join(" ".join(part.split()) for part in path), names)
        why = "it has one level of lists" if within else ""
        if name != node.name:
            outcomes.append(Outcome("lists", "changed", node.name, node.name, name, why, "folders"))
        else:
            outcomes.append(Outcome("lists", "as it is", node.name, _many(node), _many(node)))
        found.append(Node(name, "list", node.tracks))
    return tuple(found)


def _free(name: str, taken: set[str]) -> str:
    """A name that no other list has."""
    number, wanted = 1, name
    while name.casefold() in taken:
        number += 1
        name = f"{wanted} {number}"
    taken.add(name.casefold())
    return name


def rule_there(rule: Mapping[str, Any]) -> Mapping[str, Any] | None:
    """A rule in the plain form of a library that understands rules in part; None for one it cannot say."""
    said = [_condition_there(part) for part in _needed(rule.get("where") or {})]
    if not said or None in said or rule.get("limit"):
        return None
    return {"all": said}


def _needed(where: Mapping[str, Any]) -> list[Mapping[str, Any]]:
    """What all must hold for a condition to hold, however its groups lie within one another."""
    parts = where.get("parts", ())
    if where.get("kind") == "all" or (where.get("kind") == "any" and len(parts) == 1):
        return [each for part in parts for each in _needed(part)]
    return [where]


def _condition_there(part: Mapping[str, Any]) -> Mapping[str, Any] | None:
    field = part.get("field", "")
    if part.get("kind") == "between" and field in RULE_NUMBERS:
        return {"of": RULE_NUMBERS[field], "from": part.get("low"), "to": part.get("high")}
    if part.get("kind") == "text" and field in RULE_TEXTS and part.get("how") == "is":
        return {"of": RULE_TEXTS[field], "is": part.get("text")}
    return None


def rule_here(rule: Mapping[str, Any]) -> Mapping[str, Any] | None:
    """The rule that such a plain form says; None if it says none."""
    parts = []
    said = rule.get("all")
    for each in said if isinstance(said, list) else ():
        if not isinstance(each, Mapping):
            return None
        if each.get("of") in NUMBERS_HERE:
            field = NUMBERS_HERE[each["of"]]
            parts.append({"kind": "between", "field": field, "low": each.get("from"), "high": each.get("to")})
        elif each.get("of") in RULE_TEXTS and isinstance(each.get("is"), str):
            parts.append({"kind": "text", "field": each["of"], "text": each["is"], "how": "is"})
        else:
            return None
    if not parts:
        return None
    order = [{"sort": "title", "descending": False}]
    return {"where": {"kind": "all", "parts": parts}, "order": order, "limit": None}


def _many(node: Node) -> str:
    return f"{len(node.tracks)} tracks" if len(node.tracks) != 1 else "a track"
