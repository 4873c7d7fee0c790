"""Rulings as a table: artist, title, ISRC, state, where, condition, source and date, by heads of columns."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from vinyl.core.naming import name_key
from vinyl.core.planning.clearance import Ruling, State, parse_places, parse_state, together
from vinyl.core.text import fold
from vinyl.exchange.errors import ListError
from vinyl.exchange.lists.table import rows_of, safe_cell

HEADS: Mapping[str, tuple[str, ...]] = {
    "artist": ("artist", "artists", "performer", "by"),
    "title": ("title", "track", "track title", "song", "name"),
    "isrc": ("isrc", "isrc code"),
    "state": ("state", "status", "clearance", "ruling", "policy"),
    "places": ("where", "places", "territory", "territories", "countries", "country"),
    "condition": ("condition", "on which condition", "conditions", "note", "notes", "remark"),
    "source": ("source", "from", "said by"),
    "on_day": ("date", "day", "on", "checked on", "as of"),
}
WRITTEN = ("artist", "title", "ISRC", "state", "where", "condition", "source", "date")
LONGEST = {"places": 400, "condition": 400, "source": 80}


@dataclass(frozen=True, slots=True)
class Recording:
    """What a track is looked up by."""

    artist: str
    title: str
    isrc: str = ""

    @property
    def names(self) -> tuple[str, ...]:
        """Under what it may stand in a list, the surest first."""
        code = "".join(char for char in fold(self.isrc) if char.isalnum())
        return tuple(filter(None, (code, name_key(self.artist, self.title))))


@dataclass(frozen=True, slots=True)
class Rulings:
    """A table that was read: rulings by what tracks are looked up by, and what of it was not understood."""

    by_name: Mapping[str, Ruling]
    notes: tuple[str, ...]

    def of(self, recording: Recording) -> Ruling | None:
        """What it says of a track; None where it has it not."""
        return next((self.by_name[name] for name in recording.names if name in self.by_name), None)


def read_rulings(text: str, source: str) -> Rulings:
    """A table of rulings, parted by commas, semicolons or tabs.

    Args:
        source: who says so where a row does not tell.

    Raises:
        ListError: if it is no table of rulings.
    """
    rows = rows_of(text)
    if not rows:
        raise ListError("This table has no rows.")
    columns = _columns(rows[0])
    if "state" not in columns or not {"title", "isrc"} & columns.keys():
        raise ListError(
            "The first row has to name the columns: state, and title with artist, or ISRC; "
            "where, condition, source and date can stand beside them."
        )
    said: dict[str, list[Ruling]] = {}
    notes: list[str] = []
    for number, row in enumerate(rows[1:], 2):
        cells = {name: row[at].strip() if at < len(row) else "" for name, at in columns.items()}
        names = Recording(cells.get("artist", ""), cells.get("title", ""), cells.get("isrc", "")).names
        state = parse_state(cells["state"])
        notes.extend(f"row {number}: {why}" for why in _problems(cells, state, names))
        if state is not None:
            for name in names:
                said.setdefault(name, []).append(_ruling(cells, state, source))
    return Rulings({name: together(rulings) for name, rulings in said.items()}, tuple(notes))


def _problems(cells: Mapping[str, str], state: State | None, names: Sequence[str]) -> Iterator[str]:
    """What of a row is not understood."""
    if not names:
        yield "no title with an artist, and no ISRC"
    if state is None:
        yield f"“{cells['state'][:40]}” is no state"
    day = cells.get("on_day", "")
    if day and not _day(day):
        yield f"its date “{day[:40]}” is not written as 2026-11-27"


def _columns(head: Sequence[str]) -> dict[str, int]:
    folded = [fold(cell).replace("_", " ").strip() for cell in head]
    found = {
        what: next((folded.index(word) for word in words if word in folded), None)
        for what, words in HEADS.items()
    }
    return {what: at for what, at in found.items() if at is not None}


def _ruling(cells: Mapping[str, str], state: State, source: str) -> Ruling:
    short = {name: cells.get(name, "")[:most] for name, most in LONGEST.items()}
    return Ruling(
        state,
        parse_places(short["places"]),
        short["condition"],
        short["source"] or source,
        _day(cells.get("on_day", "")),
    )


def _day(text: str) -> str:
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        return ""


def write_rulings(lines: Iterable[tuple[Recording, Ruling]]) -> str:
    """Rulings as a table that can be read again."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(WRITTEN)
    for recording, ruling in lines:
        cells = (
            recording.artist,
            recording.title,
            recording.isrc,
            ruling.state,
            ", ".join(ruling.places),
            ruling.condition,
            ruling.source,
            ruling.on_day,
        )
        writer.writerow([safe_cell(each) for each in cells])
    return out.getvalue()
