"""What to play after a track, for a set: out of the whole Shelf."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from vinyl.core.planning.fitting import USUAL, Reach, Weights
from vinyl.core.planning.suggesting import Evidence, Filter, Suggestion, passes, suggest
from vinyl.library import logbook, mixes, sets, tags
from vinyl.library.clock import today
from vinyl.library.fitting import Fitting, find_fitting
from vinyl.library.sets import DjSet
from vinyl.library.tracks import get_track

# So many that fit are weighed with all that is known.
WEIGHED, OFFERED = 400, 40


@dataclass(frozen=True, slots=True)
class Suggested:
    """A track that can come next."""

    track_id: int
    suggestion: Suggestion


def suggestions(
    connection: sqlite3.Connection,
    set_id: int,
    track_id: int,
    wanted: frozenset[Filter] = frozenset(),
    weeks: int = 4,
    weights: Weights = USUAL,
) -> list[Suggested]:
    """What can come after a track in a set, the best first: nothing that is in its running order, or is not
    to be played there.

    Args:
        wanted: what all must be.
        weeks: for how long what "not here lately" finds was not played at the venue.
        weights: what the user makes each part say.

    Raises:
        NotFoundError: if the set or the track is gone.
    """
    dj_set = sets.get_set(connection, set_id)
    placed = {entry.track_id for entry in sets.list_entries(connection, set_id) if entry.placed}
    reach: Reach = "near" if "key fits" in wanted else "wide"
    found = [
        each
        for each in find_fitting(connection, track_id, reach, dj_set.key_held, WEIGHED, weights)
        if each.track_id not in placed
    ]
    never = logbook.never_at(connection, dj_set.venue_id, [each.track_id for each in found])
    found = [each for each in found if each.track_id not in never]
    known = _evidence(connection, dj_set, track_id, found, weeks)
    weighed = [
        Suggested(each.track_id, suggest(each.fit, known[each.track_id], weights))
        for each in found
        if passes(each.fit, known[each.track_id], wanted, dj_set.tempo_percent)
    ]
    return sorted(weighed, key=lambda each: (-each.suggestion.score, each.track_id))[:OFFERED]


def _evidence(
    connection: sqlite3.Connection, dj_set: DjSet, track_id: int, found: Sequence[Fitting], weeks: int
) -> dict[int, Evidence]:
    chosen = get_track(connection, track_id)
    names = dict(tags.names(connection))
    own = _ids(chosen["tags"])
    together = followed(connection, track_id)
    lately = _lately(connection, dj_set, weeks)
    rows = connection.execute(
        """SELECT s.id, s.energy, s.tags, s.rating, s.backing_id FROM json_each(?) i
           JOIN shelf s ON s.id = i.value""",
        (json.dumps([each.track_id for each in found]),),
    ).fetchall()
    likeness = {each.track_id: each.likeness for each in found}
    heard = mixes.verdicts(connection, [track_id])
    known = {}
    for row in rows:
        both, either = own & _ids(row["tags"]), own | _ids(row["tags"])
        step = None if row["energy"] is None or chosen["energy"] is None else row["energy"] - chosen["energy"]
        backing = row["backing_id"] is not None and row["backing_id"] == chosen["backing_id"]
        known[row["id"]] = replace(
            together.get(row["id"], Evidence()),
            tags=tuple(sorted(names[tag] for tag in both if tag in names)),
            tags_share=len(both) / len(either) if either else 0.0,
            lately=lately.get(row["id"], ""),
            energy_step=step,
            likeness=likeness[row["id"]],
            same_backing=backing,
            stars=row["rating"],
            works=heard.get((track_id, row["id"])),
        )
    return known


def _ids(text: str) -> frozenset[int]:
    return frozenset(int(each) for each in filter(None, text.split(",")))


def _lately(connection: sqlite3.Connection, dj_set: DjSet, weeks: int) -> Mapping[int, str]:
    """On which day tracks were played at the set's venue, within some weeks before it."""
    if dj_set.venue_id is None:
        return {}
    day = date.fromisoformat(dj_set.on_day) if dj_set.on_day else today()
    found = logbook.played_lately(connection, dj_set.venue_id, logbook.weeks_before(day, weeks))
    days = {each: date.fromisoformat(on) for each, (_, on) in found.items()}
    return {each: f"{on.day} {on:%b}" for each, on in days.items()}


def followed(connection: sqlite3.Connection, track_id: int) -> dict[int, Evidence]:
    """What followed a track at nights, how often, and how it went."""
    rows = connection.execute(
        """WITH next AS (
             SELECT (SELECT n.id FROM play n WHERE n.gig_id = p.gig_id AND n.position > p.position
                     ORDER BY n.position LIMIT 1) AS id
             FROM play p JOIN gig g ON g.id = p.gig_id WHERE p.track_id = ? AND NOT g.practice)
           SELECT n.track_id, count(*), sum(n.went = 'well'), sum(n.went = 'flat')
           FROM next JOIN play n ON n.id = next.id WHERE n.track_id IS NOT NULL GROUP BY n.track_id""",
        (track_id,),
    )
    return {row[0]: Evidence(together=row[1], went_well=row[2], fell_flat=row[3]) for row in rows}
