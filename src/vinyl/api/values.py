"""Where the values of a track come from, and which source wins."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.models.values import RuleChangeOut, RulePreview, ValueOut, ValueRule
from vinyl.api.services import Use
from vinyl.library import tracks, values
from vinyl.library.values import FIELDS, FOLLOWS, FREE
from vinyl.operations import tracks as operations

router = APIRouter(prefix="/api", tags=["values"])

# Grids and structures are long; that they are there is what is shown.
LONGEST_SHOWN = 400
MOST_EXAMPLES = 8


@router.get("/tracks/{track_id}/values")
def list_values(use: Use, track_id: int) -> list[ValueOut]:
    """All values of a track from all their sources, the one that wins first in each field."""
    connection = use.database.read()
    tracks.get_track(connection, track_id)
    return [
        ValueOut.model_validate(
            {
                "field": value.field,
                "source": value.source,
                "origin": value.origin,
                "text": _short(value.value.text),
                "doubt": value.value.doubt,
                "changed_at": value.changed_at,
                "wins": value.wins,
            }
        )
        for value in values.sources_of(connection, track_id)
    ]


@router.get("/value-rules")
def list_rules(use: Use) -> list[ValueRule]:
    """For each field the order of its free sources, the one that wins first."""
    rules = values.get_rules(use.database.read())
    return [
        ValueRule.model_validate({"field": field, "order": [s for s in rules[field] if s in FREE]})
        for field in FIELDS
        if field not in FOLLOWS
    ]


@router.post("/value-rules/preview")
def preview_rule(use: Use, rule: ValueRule) -> RulePreview:
    """How many tracks would have another value under a rule, and some of them."""
    count, changes = values.preview_rule(use.database.read(), rule.field, rule.order, MOST_EXAMPLES)
    shown = [
        RuleChangeOut(title=each.title, before=_short(each.before), after=_short(each.after))
        for each in changes
    ]
    return RulePreview(tracks=count, examples=shown)


@router.put("/value-rules")
def set_rule(use: Use, rule: ValueRule) -> list[ValueRule]:
    """Change which source wins for a field, for all tracks."""
    operations.set_value_rule(use.database, rule.field, rule.order)
    return list_rules(use)


def _short(text: str | None) -> str | None:
    return text and text[:LONGEST_SHOWN]
