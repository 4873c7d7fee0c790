"""What becomes of a file that was looked at: new, known, moved, a copy, or changed since it was imported."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from vinyl.library import analyses, flat, imports, tracks, values
from vinyl.library.database import Database
from vinyl.library.imports import ImportedFile
from vinyl.library.tracks import FileFacts, Said
from vinyl.library.values import Field
from vinyl.media.probe import SoundFacts
from vinyl.media.tags import Tags

if TYPE_CHECKING:
    from vinyl.jobs.importing import Examined

NAMES: dict[str, str] = {"genre": "style", "catalogue": "catalogue number", "plays": "play count"}
OTHER_SOUND = (
    "The file holds another sound now. It is analysed anew; cues, a grid "
    "by hand and places in crates stayed: check them by ear."
)


def settle_file(database: Database, job_id: int, file: Examined) -> ImportedFile:
    """Decide what becomes of a file; keep what follows from it, and that it did, in one transaction."""
    if file.refused:
        return note(database, job_id, ImportedFile(file.path, *file.refused, None))
    if file.facts is None or file.tags is None:
        raise ValueError("an examined file has facts or a refusal")
    known = database.read().execute("SELECT id FROM track WHERE path = ?", (file.path,)).fetchone()
    if known:
        return _settle_known(database, job_id, file, known["id"])
    with database.write() as connection:
        outcome = _settle_new(connection, file, file.facts, file.tags)
        imports.note_file(connection, job_id, outcome)
    return outcome


def note(database: Database, job_id: int, outcome: ImportedFile) -> ImportedFile:
    """Keep what became of a file."""
    with database.write() as connection:
        imports.note_file(connection, job_id, outcome)
    return outcome


def _settle_new(
    connection: sqlite3.Connection, file: Examined, sound: SoundFacts, tags: Tags
) -> ImportedFile:
    twin = connection.execute(
        "SELECT id, path FROM track WHERE audio_hash = ? ORDER BY id", (sound.audio_hash,)
    ).fetchone()
    if twin is None:
        track_id = tracks.add_track(connection, facts_of(file, sound, tags), said_by(file.path, tags))
        analyses.enqueue(connection, track_id)
        return ImportedFile(file.path, "added", tags.problem, track_id)
    place = (file.path, file.size_bytes, file.modified_ns)
    if not Path(twin["path"]).exists():
        imports.note_place(connection, twin["id"], *place)
        reason = f"It was moved here from {twin['path']}; cues and crates came along."
    else:
        imports.note_copy(connection, twin["id"], *place)
        reason = f"It holds the very same sound as {Path(twin['path']).name}; noted as a copy of it."
    return ImportedFile(file.path, "already here", reason, twin["id"])


def _settle_known(database: Database, job_id: int, file: Examined, track_id: int) -> ImportedFile:
    """A file under a known path: the same, with other tags, or with another sound."""
    assert file.facts is not None and file.tags is not None, "what has no facts is refused before"
    facts, said = facts_of(file, file.facts, file.tags), said_by(file.path, file.tags)
    before = tracks.get_file(database.read(), track_id)
    title = tracks.get_track(database.read(), track_id)["title"]
    other_sound = before["audio_hash"] != facts.audio_hash
    with database.write(f"Take in the new {'file' if other_sound else 'tags'} of “{title}”") as connection:
        if other_sound:
            _take_in(connection, track_id, facts, said)
            outcome = ImportedFile(file.path, "changed", OTHER_SOUND, track_id)
        else:
            tracks.replace_file(connection, track_id, facts)
            outcome = _told(file.path, tracks.keep_said(connection, track_id, said), track_id)
        imports.note_file(connection, job_id, outcome)
    return outcome


def _told(path: str, changed: list[Field], track_id: int) -> ImportedFile:
    if not changed:
        return ImportedFile(path, "already here", "It was imported before.", track_id)
    words = ", ".join(NAMES.get(name, name) for name in changed)
    return ImportedFile(path, "changed", f"Its tags were changed: {words}.", track_id)


def _take_in(connection: sqlite3.Connection, track_id: int, facts: FileFacts, said: Said) -> None:
    """Another sound under a known path: what analysis said of the old one goes, and can be had
    back by undo."""
    tracks.replace_file(connection, track_id, facts)
    tracks.keep_said(connection, track_id, said)
    values.put(connection, [track_id], "analysis", dict.fromkeys(analyses.ANALYSED))
    connection.execute("DELETE FROM track_analysis WHERE track_id = ?", (track_id,))
    connection.execute("DELETE FROM track_likeness WHERE track_id = ?", (track_id,))
    tracks.note_replaced(connection, track_id)
    analyses.enqueue(connection, track_id)
    flat.settle(connection, [track_id])


def facts_of(file: Examined, sound: SoundFacts, tags: Tags) -> FileFacts:
    """What the library keeps of a file."""
    return FileFacts(
        path=file.path,
        size_bytes=file.size_bytes,
        modified_ns=file.modified_ns,
        audio_hash=sound.audio_hash,
        codec=sound.codec,
        rate_hz=sound.rate_hz,
        channels=sound.channels,
        bit_rate=sound.bit_rate,
        trimmed_samples=sound.trimmed_samples,
        duration_s=sound.duration_s,
        has_picture=tags.picture is not None,
    )


def said_by(path: str, tags: Tags) -> Said:
    """What a file says of itself by its tags, and by its name where they give no title."""
    found: dict[Field, object] = {
        "title": tags.title,
        "artist": tags.artist,
        "album": tags.album,
        "genre": tags.genre,
        "label": tags.label,
        "comment": tags.comment,
        "year": tags.year,
        "key": tags.key,
        "tempo": tags.bpm,
        "stars": tags.rating,
        "remixer": tags.remixer,
        "catalogue": tags.catalogue,
        "grouping": tags.grouping,
        "composer": tags.composer,
        "language": tags.language,
        "isrc": tags.isrc,
        "energy": tags.energy,
        "plays": tags.plays,
        "explicit": None if tags.explicit is None else "yes" if tags.explicit else "no",
        "gain": None if tags.gain_db is None else f"{tags.gain_db:.2f}",
        "chapters": json.dumps([asdict(mark) for mark in tags.chapters], ensure_ascii=False)
        if tags.chapters
        else None,
    }
    said: dict[Field, str] = {field: str(value) for field, value in found.items() if value}
    return Said(said, {} if tags.title else _from_name(Path(path).stem))


def _from_name(stem: str) -> dict[Field, str]:
    """Artist and title from a file name like "Artist - Title"."""
    before, dash, after = stem.partition(" - ")
    if dash and after.strip():
        return {"title": after.strip(), **({"artist": before.strip()} if before.strip() else {})}
    return {"title": stem}
