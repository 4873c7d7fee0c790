"""What the user has chosen for the whole library: when a track is finished, what colours are called."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Literal

from vinyl.core.rules.finishing import FinishRules

COMMON_LABELS = (
    "intro",
    "verse",
    "chorus",
    "break",
    "build",
    "drop",
    "vocals",
    "outro",
    "start here",
    "out before this",
)
MOST_LABELS = 60

ColourTable = Literal["cue_colour", "track_colour"]


@dataclass(frozen=True, slots=True)
class CueColour:
    """What a colour means to the user: its name, the sign (a letter or two) that stands for it, and its own
    shade as #rrggbb, if any.
    """

    colour: str
    name: str
    sign: str
    hex: str | None = None


def get_finish_rules(connection: sqlite3.Connection) -> FinishRules:
    """The rules by which a track counts as prepared."""
    row = connection.execute("SELECT value FROM choice WHERE name = 'finish rules'").fetchone()
    stored = json.loads(row[0]) if row else {}
    return FinishRules(**{**stored, "roles": tuple(stored.get("roles", ()))})


def set_finish_rules(connection: sqlite3.Connection, rules: FinishRules) -> None:
    """Change the rules."""
    connection.execute(
        "INSERT INTO choice (name, value) VALUES ('finish rules', ?) ON CONFLICT (name) DO UPDATE SET value "
        "= excluded.value",
        (json.dumps(asdict(rules)),),
    )


def list_colours(connection: sqlite3.Connection, table: ColourTable = "cue_colour") -> list[CueColour]:
    """The colours of cues, or of tracks, in their order."""
    rows = connection.execute(f"SELECT colour, name, sign, hex FROM {table} ORDER BY place")
    return [CueColour(*row) for row in rows]


def name_colours(
    connection: sqlite3.Connection, colours: Sequence[CueColour], table: ColourTable = "cue_colour"
) -> None:
    """Give colours names, signs and shades."""
    connection.executemany(
        f"UPDATE {table} SET name = ?, sign = ?, hex = ? WHERE colour = ?",
        [
            (colour.name.strip() or colour.colour, colour.sign.strip()[:2], colour.hex, colour.colour)
            for colour in colours
        ],
    )


def list_labels(connection: sqlite3.Connection) -> list[str]:
    """Names that the user has given to cues, the most used first, then common ones."""
    rows = connection.execute(
        "SELECT label FROM cue WHERE label <> '' GROUP BY label ORDER BY count(*) DESC, label LIMIT ?",
        (MOST_LABELS,),
    )
    own = [row[0] for row in rows]
    known = {label.casefold() for label in own}
    return own + [label for label in COMMON_LABELS if label not in known]
