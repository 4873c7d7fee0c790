"""Cue templates of the user's own, and what they make of tracks."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass

from vinyl.core.cues.cue import Cue
from vinyl.core.cues.proposals import CueProposal
from vinyl.core.cues.templates import SAME_PLACE_BEATS, TemplateCue, WantedCue, apply_template
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.library import cues, grids, locks
from vinyl.library.analyses import structure_of
from vinyl.library.errors import LibraryError, NotFoundError


@dataclass(frozen=True, slots=True)
class Template:
    """A named list of cues to set."""

    id: int
    name: str
    cues: tuple[TemplateCue, ...]


@dataclass(frozen=True, slots=True)
class TemplateResult:
    """What a template makes of one track; ``hindrance`` says why it can do nothing there, or is empty.

    Attributes:
        made: ids of the cues that stand where it would set them, under its names.
    """

    track_id: int
    title: str
    wanted: tuple[WantedCue, ...]
    hindrance: str
    made: tuple[int, ...] = ()


def list_templates(connection: sqlite3.Connection) -> list[Template]:
    """All templates by name."""
    return [
        _from_row(row)
        for row in connection.execute("SELECT * FROM cue_template ORDER BY name COLLATE NOCASE, id")
    ]


def get_template(connection: sqlite3.Connection, template_id: int) -> Template:
    """One template.

    Raises:
        NotFoundError: if there is none of that id.
    """
    row = connection.execute("SELECT * FROM cue_template WHERE id = ?", (template_id,)).fetchone()
    if row is None:
        raise NotFoundError("This template is no longer there.")
    return _from_row(row)


def save_template(
    connection: sqlite3.Connection, name: str, made: Sequence[TemplateCue], template_id: int | None = None
) -> int:
    """Keep a new template, or change one; returns its id."""
    if not name.strip() or not made:
        raise LibraryError("A template needs a name and at least one cue.")
    text = json.dumps([asdict(cue) for cue in made])
    if template_id is not None:
        get_template(connection, template_id)
        connection.execute(
            "UPDATE cue_template SET name = ?, cues = ? WHERE id = ?", (name.strip(), text, template_id)
        )
        return template_id
    return int(
        connection.execute(
            "INSERT INTO cue_template (name, cues) VALUES (?, ?)", (name.strip(), text)
        ).lastrowid
        or 0
    )


def delete_template(connection: sqlite3.Connection, template_id: int) -> None:
    """Forget a template."""
    get_template(connection, template_id)
    connection.execute("DELETE FROM cue_template WHERE id = ?", (template_id,))


def preview(
    connection: sqlite3.Connection, template: Template, track_ids: Sequence[int]
) -> list[TemplateResult]:
    """What a template would add to tracks."""
    return [_result(connection, template, track_id) for track_id in track_ids]


@dataclass(frozen=True, slots=True)
class Applied:
    """How many cues were set on how many tracks, and the tracks on which nothing could be."""

    cues: int
    tracks: int
    hindered: tuple[TemplateResult, ...]

    def __add__(self, other: Applied) -> Applied:
        return Applied(self.cues + other.cues, self.tracks + other.tracks, self.hindered + other.hindered)


def apply(connection: sqlite3.Connection, results: Sequence[TemplateResult]) -> Applied:
    """Add to tracks what was previewed and is not there; tracks with a hindrance stay as they are."""
    set_cues = set_tracks = 0
    for result in results:
        wanted = [cue for cue in (() if result.hindrance else result.wanted) if not cue.there]
        made = [
            Cue(each.position_s, each.length_s, each.label, each.role, each.colour, each.pad, each.engages)
            for each in wanted
        ]
        if made:
            cues.add_cues(connection, result.track_id, made)
        set_cues += len(wanted)
        set_tracks += bool(wanted)
    return Applied(set_cues, set_tracks, tuple(result for result in results if result.hindrance))


def take_away(connection: sqlite3.Connection, results: Sequence[TemplateResult]) -> Applied:
    """Delete what a template has made of tracks; tracks with a hindrance stay as they are."""
    touched = [result for result in results if result.made and not result.hindrance]
    for result in touched:
        cues.delete_cues(connection, result.track_id, result.made)
    deleted = sum(len(result.made) for result in touched)
    return Applied(deleted, len(touched), tuple(result for result in results if result.hindrance))


def places_of(connection: sqlite3.Connection, track_id: int) -> list[CueProposal]:
    """The cues that are set, and the proposals for roles that are not."""
    found = [
        CueProposal(cue.position_s, cue.role, cue.label.casefold())  # type: ignore[arg-type]
        for cue in cues.list_cues(connection, track_id)
    ]
    roles = {cue.role for cue in found if cue.role}
    named = {cue.label for cue in found}
    return found + [
        p
        for p in proposals_of(connection, track_id)
        if (p.role not in roles if p.role else p.label not in named)
    ]


def proposals_of(connection: sqlite3.Connection, track_id: int) -> list[CueProposal]:
    """The cues that analysis proposed."""
    return structure_of(connection, track_id).proposals


def _result(connection: sqlite3.Connection, template: Template, track_id: int) -> TemplateResult:
    row = connection.execute("SELECT title, duration_s FROM shelf WHERE id = ?", (track_id,)).fetchone()
    if row is None:
        return TemplateResult(track_id, f"Track {track_id}", (), "it is not in the library any more")
    grid = grids.get_grid(connection, track_id)
    if grid is None:
        return TemplateResult(track_id, row["title"], (), "it has no beatgrid yet")
    there = cues.list_cues(connection, track_id)
    wanted = tuple(
        apply_template(
            template.cues,
            places_of(connection, track_id),
            [cue.position_s for cue in there],
            grid.tempo_map,
            row["duration_s"],
        )
    )
    made = [cue.id for cue in there if any(_is_of(cue, each, grid.tempo_map) for each in wanted)]
    locked = "cues" in locks.locks_of(connection, track_id)
    reason = (
        "its cues are locked" if locked else "" if wanted else "it has no place that the template counts from"
    )
    return TemplateResult(track_id, row["title"], wanted, reason, tuple(made))


def _is_of(cue: Cue, wanted: WantedCue, tempo_map: TempoMap) -> bool:
    """Whether a cue is what a template would set: there, under its name, a loop or not."""
    beats = abs(float(tempo_map.beat_at(cue.position_s)) - float(tempo_map.beat_at(wanted.position_s)))
    same_kind = (cue.length_s is None) == (wanted.length_s is None)
    return beats < SAME_PLACE_BEATS and cue.label == wanted.label and same_kind


def _from_row(row: sqlite3.Row) -> Template:
    return Template(row["id"], row["name"], tuple(TemplateCue(**cue) for cue in json.loads(row["cues"])))
