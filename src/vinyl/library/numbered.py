"""JSON of older libraries, which names things by the ids that they have there: with global ids instead."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from importlib import resources
from typing import Any

# Names of ids in conditions, and the names that global ids have there.
NAMES: Mapping[str, str] = {
    "list_id": "list", "tag_id": "tag", "backing_id": "backing", "venue_id": "venue",
}  # fmt: skip
FAMILY, TAG = "tags ", "tag "

# The migration that does this to a whole library.
MIGRATION = "0017_global_references.sql"

Gids = Mapping[str, Mapping[str, str]]


def bring_up(connection: sqlite3.Connection) -> None:
    """Do to rows that came from an older document what the migration did to all that were here."""
    script = (resources.files("vinyl.library") / "migrations" / MIGRATION).read_text(encoding="utf-8")
    for statement in script.split(";\n"):
        connection.execute(statement)


def with_gids(text: str, gids: str) -> str:
    """A rule, a series, an order or a list's document as JSON, by global ids.

    Args:
        gids: as JSON, by the names of global ids (and "family") the global id of each id.
    """
    return json.dumps(_tree(json.loads(text), json.loads(gids)), ensure_ascii=False)


def _tree(tree: Any, gids: Gids) -> Any:
    if isinstance(tree, list):
        return [_tree(each, gids) for each in tree]
    if not isinstance(tree, dict):
        return tree
    return dict(_pair(name, value, gids) for name, value in tree.items())


def _pair(name: str, value: Any, gids: Gids) -> tuple[str, Any]:
    if name in NAMES and isinstance(value, int):
        return NAMES[name], gids[NAMES[name]].get(str(value), "")
    if name in NAMES:
        return NAMES[name], None
    if name == "lists" and isinstance(value, list) and all(isinstance(each, int) for each in value):
        return name, [gid for each in value if (gid := gids["list"].get(str(each)))]
    if name == "by" and isinstance(value, str) and value.startswith(FAMILY):
        return name, FAMILY + gids["family"].get(value.removeprefix(FAMILY), "")
    if name == "without" and isinstance(value, list):
        return name, [_value(each, gids) for each in value]
    return name, _tree(value, gids)


def _value(text: Any, gids: Gids) -> Any:
    """A value of a series, which may be a tag."""
    number = text.removeprefix(TAG) if isinstance(text, str) else ""
    return TAG + gids["tag"].get(number, "") if number.isdecimal() and number != text else text
