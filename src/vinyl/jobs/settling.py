"""What becomes of a file that was looked at: new, known, moved, a copy, or changed since it was imported."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Sequence
from dataclasses import asdict, replace
from pathlib import Path
from typing import TYPE_CHECKING

from vinyl.core.rhythm.windows import Window
from vinyl.library import analyses, flat, imports, off_shelf, plays, queue, sounds, tracks, values, wanted
from vinyl.library.database import Database
from vinyl.library.imports import ImportedFile
from vinyl.library.sounds import KnownSound, Sought
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

BACK = "It was taken off the Shelf before, and is back with its tags, grid and cues."

# Reads a file from end to end; gives the name of all its packets, or None if it cannot be read.
Digest = Callable[[str], str | None]


def settle_file(
    database: Database, job_id: int, file: Examined, digest: Digest, window_bpm: Window | None = None
) -> ImportedFile:
    """Decide what becomes of a file; keep what follows from it, and that it did, in one transaction.

    Args:
        window_bpm: the tempo window that the import was given.
    """
    if file.refused:
        return note(database, job_id, ImportedFile(file.path, *file.refused, None))
    if file.facts is None or file.tags is None:
        raise ValueError("an examined file has facts or a refusal")
    known = database.read().execute("SELECT id FROM track WHERE path = ?", (file.path,)).fetchone()
    if known:
        back = _bring_back(database, known["id"])
        return _note_back(database, job_id, _settle_known(database, job_id, file, known["id"], digest), back)
    sound, twin = _find_twin(database, file, file.facts, digest)
    with database.write(background=True) as connection:
        if twin is None:
            outcome, back = _add(connection, file, sound, file.tags, window_bpm), False
        else:
            back = off_shelf.bring_back(connection, [twin.track_id]) > 0
            outcome = _settle_twin(connection, file, twin, sound)
        imports.note_file(connection, job_id, outcome)
    return _note_back(database, job_id, outcome, back)


def _bring_back(database: Database, track_id: int) -> bool:
    """A track that was taken off the Shelf comes back when its file is imported again."""
    if not off_shelf.is_off(database.read(), track_id):
        return False
    with database.write(background=True) as connection:
        return off_shelf.bring_back(connection, [track_id]) > 0


def _note_back(database: Database, job_id: int, outcome: ImportedFile, back: bool) -> ImportedFile:
    if not back:
        return outcome
    return note(database, job_id, replace(outcome, outcome="added", reason=BACK))


def settle_new(
    database: Database, job_id: int, files: Sequence[Examined], window_bpm: Window | None = None
) -> list[ImportedFile]:
    """Add, in one transaction, those of some files whose paths and sounds the library does not know; returns
    what became of them. The others are for ``settle_file``.
    """
    read = database.read()
    known = imports.at_paths(read, [file.path for file in files])
    plain: dict[str, tuple[Examined, SoundFacts, Tags]] = {}
    for file in files:
        name = file.facts.sampled_hash if file.facts else None
        if name is None or file.facts is None or file.tags is None or file.path in known or name in plain:
            continue
        plain[name] = file, file.facts, file.tags
    for name in sounds.perhaps_known(read, {name: file.size_bytes for name, (file, *_) in plain.items()}):
        del plain[name]
    with database.write(background=True) as connection:
        made = [(facts_of(*each), said_by(each[0].path, each[2])) for each in plain.values()]
        ids = tracks.add_tracks(connection, made)
        queue.arrive(connection, ids, window_bpm)
        placed = wanted.fulfil(connection, ids)
        plays.match_new(connection, ids)
        outcomes = [
            ImportedFile(file.path, "added", _and_placed(tags.problem, placed.get(track_id)), track_id)
            for track_id, (file, _, tags) in zip(ids, plain.values(), strict=True)
        ]
        imports.note_files(connection, job_id, outcomes)
    return outcomes


def note(database: Database, job_id: int, outcome: ImportedFile) -> ImportedFile:
    """Keep what became of a file."""
    with database.write(background=True) as connection:
        imports.note_file(connection, job_id, outcome)
    return outcome


def _find_twin(
    database: Database, file: Examined, sound: SoundFacts, digest: Digest
) -> tuple[SoundFacts, KnownSound | None]:
    """The track with the very same sound, if there is one, and what was learnt of the sound meanwhile."""
    sought = Sought(sound.sampled_hash, sound.packet_hash, file.size_bytes, sound.codec, sound.duration_s)
    likely = sounds.perhaps_same(database.read(), sought)
    for known in likely:
        sound = _read_whole(sound, file.path, digest)
        if _is_same(sound, known, digest):
            return sound, known
    return sound, None


def _is_same(sound: SoundFacts, known: KnownSound, digest: Digest) -> bool:
    """Whether a track holds a sound. Pieces alone decide only where its file is gone, never read whole."""
    of_known = known.packet_hash or (digest(known.path) if Path(known.path).exists() else None)
    if of_known is None or sound.packet_hash is None:
        return sound.sampled_hash is not None and sound.sampled_hash == known.sampled_hash
    return sound.packet_hash == of_known


def _read_whole(sound: SoundFacts, path: str, digest: Digest) -> SoundFacts:
    return sound if sound.packet_hash else replace(sound, packet_hash=digest(path))


def _add(
    connection: sqlite3.Connection,
    file: Examined,
    sound: SoundFacts,
    tags: Tags,
    window_bpm: Window | None,
) -> ImportedFile:
    track_id = tracks.add_track(connection, facts_of(file, sound, tags), said_by(file.path, tags))
    queue.arrive(connection, [track_id], window_bpm)
    placed = wanted.fulfil(connection, [track_id]).get(track_id)
    plays.match_new(connection, [track_id])
    return ImportedFile(file.path, "added", _and_placed(tags.problem, placed), track_id)


def _and_placed(problem: str, crates: Sequence[str] | None) -> str:
    """What is said of a new file: what is odd about it, and where it was wanted."""
    if not crates:
        return problem
    names = ", ".join(f"“{name}”" for name in dict.fromkeys(crates))
    return f"{problem} It was wanted in {names} and stands in its place now.".strip()


def _settle_twin(
    connection: sqlite3.Connection, file: Examined, twin: KnownSound, sound: SoundFacts
) -> ImportedFile:
    """A sound that the library has: its file was moved, or this is a copy of it."""
    if sound.packet_hash and twin.packet_hash is None:
        sounds.keep_packet_hash(connection, twin.track_id, sound.packet_hash)
    place = (file.path, file.size_bytes, file.modified_ns)
    if not Path(twin.path).exists():
        imports.note_place(connection, twin.track_id, *place)
        outcome, reason = "moved", f"It was moved here from {twin.path}; cues and crates came along."
    else:
        imports.note_copy(connection, twin.track_id, *place)
        outcome = "already here"
        reason = f"It holds the very same sound as {Path(twin.path).name}; noted as a copy of it."
    placed = wanted.fulfil(connection, [twin.track_id], file.path).get(twin.track_id)
    return ImportedFile(file.path, outcome, _and_placed(reason, placed), twin.track_id)


def _settle_known(
    database: Database, job_id: int, file: Examined, track_id: int, digest: Digest
) -> ImportedFile:
    """A file under a known path: the same, with other tags, or with another sound."""
    assert file.facts is not None and file.tags is not None, "what has no facts is refused before"
    known = sounds.of_track(database.read(), track_id)
    sound = file.facts
    if not (sound.sampled_hash and known.sampled_hash) and known.packet_hash:
        sound = _read_whole(sound, file.path, digest)
    other_sound = not _is_still(sound, known)
    facts, said = facts_of(file, sound, file.tags), said_by(file.path, file.tags)
    title = tracks.get_track(database.read(), track_id)["title"]
    with database.write(
        f"Take in the new {'file' if other_sound else 'tags'} of “{title}”", background=True
    ) as connection:
        if other_sound:
            _take_in(connection, track_id, facts, said)
            outcome = ImportedFile(file.path, "changed", OTHER_SOUND, track_id)
        else:
            before = tracks.get_file(connection, track_id)
            tracks.replace_file(
                connection,
                track_id,
                replace(
                    facts,
                    audio_hash=before["audio_hash"],
                    packet_hash=facts.packet_hash or before["packet_hash"],
                ),
            )
            outcome = _told(file.path, tracks.keep_said(connection, track_id, said), track_id)
        imports.note_file(connection, job_id, outcome)
    return outcome


def _is_still(sound: SoundFacts, known: KnownSound) -> bool:
    """Whether a file holds the sound that it held; its pieces tell, if both were taken."""
    if sound.sampled_hash and known.sampled_hash:
        return sound.sampled_hash == known.sampled_hash
    return sound.packet_hash is not None and sound.packet_hash == known.packet_hash


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
    queue.enqueue(connection, [track_id])
    flat.settle(connection, [track_id])


def facts_of(file: Examined, sound: SoundFacts, tags: Tags) -> FileFacts:
    """What the library keeps of a file."""
    return FileFacts(
        path=file.path,
        size_bytes=file.size_bytes,
        modified_ns=file.modified_ns,
        audio_hash=sound.audio_hash,
        sampled_hash=sound.sampled_hash,
        packet_hash=sound.packet_hash,
        depth_bits=sound.depth_bits,
        variable_rate=sound.variable_rate,
        padding_samples=sound.padding_samples,
        codec=sound.codec,
        rate_hz=sound.rate_hz,
        channels=sound.channels,
        bit_rate=sound.bit_rate,
        trimmed_samples=sound.trimmed_samples,
        duration_s=sound.duration_s,
        has_picture=file.has_picture,
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
    return Said(said, None if tags.title else Path(path).stem)
