"""A night of the Logbook as a file for others."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from datetime import timedelta

from vinyl.exchange.night_files import Form, NightFile, NightTrack, write_night
from vinyl.library import gigs, plays, venues
from vinyl.library.gigs import Gig
from vinyl.library.plays import Play


def export_night(
    connection: sqlite3.Connection,
    gig_id: int,
    form: Form,
    times: bool = True,
    recording: str = "recording.wav",
) -> tuple[str, NightFile]:
    """What a night is called, and its file.

    Raises:
        ListError: if the form needs what is not known.
    """
    gig = gigs.get_gig(connection, gig_id)
    name = name_of(connection, gig)
    played = plays.list_plays(connection, gig_id)
    facts = file_facts(connection, [play.track_id for play in played if play.track_id is not None])
    tracks = [_track(play, facts.get(play.track_id or 0)) for play in played]
    began = gig.facts.began if gig.facts.timed else None
    return name, write_night(form, name, tracks, times, recording, began)


def name_of(connection: sqlite3.Connection, gig: Gig) -> str:
    """A night's name: where and when it was."""
    at, venue_id = gig.facts.began, gig.facts.venue_id
    where = venues.get_venue(connection, venue_id).name if venue_id else ""
    return f"{' – '.join(filter(None, (where, gig.facts.name))) or 'A night'}, {at:%a} {at.day} {at:%b %Y}"


def file_facts(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[int, sqlite3.Row]:
    """What files for others tell of tracks on the Shelf beside their names, and where each lies."""
    rows = connection.execute(
        """SELECT s.id, s.label, s.isrc, s.composer, t.path FROM json_each(?) i JOIN shelf s ON s.id = i.value
           JOIN track t ON t.id = s.id""",
        (json.dumps(track_ids),),
    )
    return {row["id"]: row for row in rows}


def _track(play: Play, facts: sqlite3.Row | None) -> NightTrack:
    began = play.began if play.timed else None
    ended = began + timedelta(seconds=play.heard_s) if began and play.heard_s else None
    more = {name: facts[name] for name in ("label", "isrc", "composer", "path")} if facts else {}
    return NightTrack(play.artist, play.title, duration_s=play.duration_s, began=began, ended=ended, **more)
