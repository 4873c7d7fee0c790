"""What holds for many tracks: cue templates, when a track counts as prepared, and how tracks are analysed."""

from __future__ import annotations

from collections.abc import Sequence

from vinyl.core.analysis import VERSION
from vinyl.core.cues.templates import TemplateCue
from vinyl.core.rhythm.windows import Window
from vinyl.core.rules.finishing import FinishRules
from vinyl.library import choices, queue, templates, tracks
from vinyl.library.database import Database
from vinyl.library.queue import AnalysisChoice, Part
from vinyl.library.templates import Template
from vinyl.operations.services import Services


def save_template(
    database: Database, name: str, cues: Sequence[TemplateCue], template_id: int | None = None
) -> Template:
    """Keep a template, a new one or one that is changed; cues it has made stay."""
    with database.write(f"{'Save' if template_id is None else 'Change'} the template “{name}”") as connection:
        saved = templates.save_template(connection, name, cues, template_id)
        return templates.get_template(connection, saved)


def delete_template(database: Database, template_id: int) -> None:
    """Forget a template; cues it has made stay."""
    with database.write("Delete a template") as connection:
        templates.delete_template(connection, template_id)


def set_finish_rules(database: Database, rules: FinishRules) -> None:
    """Change when a track counts as prepared."""
    with database.write("Change when a track is finished") as connection:
        choices.set_finish_rules(connection, rules)


def set_analysis(database: Database, choice: AnalysisChoice) -> None:
    """Change how tracks are analysed from now on."""
    with database.write("Change how tracks are analysed") as connection:
        queue.set_choice(connection, choice)


def analyse(
    services: Services,
    track_ids: Sequence[int],
    window: Window | None = None,
    parts: Sequence[Part] = queue.PARTS,
    first: bool = False,
    only_missing: bool = False,
) -> int:
    """Put tracks into the queue; what is locked or done by hand goes on to win. Returns how many.

    Args:
        only_missing: whether those are passed over that were analysed as well as can be.
    """
    if only_missing:
        track_ids = queue.without_analysis(services.database.read(), track_ids, VERSION)
    with services.database.write() as connection:
        queue.enqueue(connection, track_ids, first, window, parts)
    services.analyser.begin()
    return len(track_ids)


def note_opened(services: Services, track_id: int) -> None:
    """Tell that a track is on the Workbench: it is analysed now, if that waits until tracks are opened."""
    read = services.database.read()
    state = tracks.get_track(read, track_id)["analysis_state"]
    if state == "none" and queue.get_choice(read).arrival == "when opened":
        analyse(services, [track_id], first=True)
