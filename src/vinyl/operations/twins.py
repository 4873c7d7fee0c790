"""What is done with twins: groups as they are listed, what would be carried over, settling, and versions."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from vinyl.core.twins.alignment import SAME_TIMES, Alignment
from vinyl.core.twins.groups import Pair
from vinyl.core.twins.proposal import propose
from vinyl.jobs.twin_settling import Settlement, check_files
from vinyl.library import imports, tracks, twin_carrying, twin_facts, twin_pairs, works
from vinyl.library.errors import LibraryError
from vinyl.library.jobs import Job
from vinyl.library.twin_carrying import Plan
from vinyl.library.twin_facts import Order, TwinFile
from vinyl.library.twin_pairs import TwinGroup
from vinyl.operations.services import Services
from vinyl.operations.words import many

SAMPLES = 4
LATER_S, MOST_PARTS = 0.05, 3
NAMES = {"pcm_s16le": "WAV", "pcm_s24le": "WAV", "pcm_s16be": "AIFF", "mp3": "MP3", "aac": "AAC"}


@dataclass(frozen=True, slots=True)
class Line:
    """A group as it is listed: with how many files, the bytes that are put aside if it is settled as
    proposed, and what it is, in words.
    """

    group: TwinGroup
    title: str
    artist: str
    files: int
    bytes: int
    words: str
    kept_id: int
    reason: str


@dataclass(frozen=True, slots=True)
class Member:
    """A track of a group with its time in relation to the first: ``time = speed * first's + offset_s``."""

    file: TwinFile
    alignment: Alignment | None
    likeness: float | None
    relation: str


@dataclass(frozen=True, slots=True)
class Sure:
    """What settling all sure groups at once comes to, with a few of them in words."""

    groups: int
    files: int
    bytes: int
    cues: int
    plays: int
    places: int
    away: int
    samples: list[tuple[str, list[str]]]


def list_lines(connection: sqlite3.Connection) -> list[Line]:
    """All groups with what is said of them."""
    if connection.in_transaction:
        return _lines(connection)
    # Groups and their tracks are of one state of the library, whoever writes meanwhile.
    connection.execute("BEGIN")
    try:
        return _lines(connection)
    finally:
        connection.execute("ROLLBACK")


def _lines(connection: sqlite3.Connection) -> list[Line]:
    groups = twin_pairs.list_groups(connection)
    ids = sorted({each for group in groups for each in group.track_ids})
    order = twin_facts.get_order(connection)
    candidates = {each.track_id: each for each in twin_facts.candidates(connection, ids, order)}
    rows = _rows(connection, ids)
    lines = []
    for group in groups:
        its = [candidates[each] for each in group.track_ids]
        kept_id, reason = propose(its, order.reasons)
        spare = sum(rows[each]["size_bytes"] for each in group.track_ids if each != kept_id)
        spare += sum(size for _, _, size in group.copies)
        head = rows[kept_id]
        files = len(group.track_ids) + len(group.copies)
        spare = spare if group.kind in ("sure", "same") else 0
        words = _words(group, rows)
        lines.append(Line(group, head["title"], head["artist"], files, spare, words, kept_id, reason))
    return lines


def _rows(connection: sqlite3.Connection, ids: Sequence[int]) -> dict[int, sqlite3.Row]:
    rows = connection.execute(
        """SELECT s.id, s.title, s.artist, s.codec, s.duration_s, s.away, t.size_bytes, t.path
           FROM shelf s JOIN track t ON t.id = s.id WHERE s.id IN (SELECT value FROM json_each(?))""",
        (json.dumps(list(ids)),),
    )
    return {row["id"]: row for row in rows}


def _words(group: TwinGroup, rows: Mapping[int, sqlite3.Row]) -> str:
    """What a group is, in a few words."""
    if group.kind == "name":
        return "same name, other sound: listen"
    if group.kind == "same backing":
        return f"one backing, {len(group.track_ids)} versions"
    if group.kind == "edit":
        lengths = [rows[each]["duration_s"] for each in group.track_ids]
        missing = [each for pair in group.pairs for each in pair.match.missing_s]
        parts = ", ".join(f"{_clock(start)}–{_clock(end)}" for start, end in missing[:MOST_PARTS])
        return f"an edit: {_clock(max(lengths) - min(lengths))} shorter" + (
            f", without {parts}" * bool(parts)
        )
    if len(group.track_ids) == 1:
        return "the very same sound"
    return f"same recording · {_detail(group, rows)}"


def _clock(time_s: float) -> str:
    return f"{round(time_s) // 60}:{round(time_s) % 60:02d}"


def _detail(group: TwinGroup, rows: Mapping[int, sqlite3.Row]) -> str:
    lines = [pair.alignment for pair in group.pairs if pair.alignment is not None]
    faster = max((abs(line.speed - 1.0) for line in lines), default=0.0)
    if faster:
        return f"one runs {100 * faster:.1f} % faster: listen"
    if group.kind != "sure":
        return _why_unsure(group.pairs)
    later_s = max((abs(line.offset_s) for line in lines), default=0.0)
    if later_s >= LATER_S:
        return f"one starts {later_s:.1f} s later"
    return " and ".join(sorted({codec_name(rows[each]["codec"]) for each in group.track_ids}))


def _why_unsure(pairs: Sequence[Pair]) -> str:
    told = [pair.unheard for pair in pairs if pair.unheard]
    if told:
        return f"listen: {told[0]}"
    waits = any(pair.difference is None and pair.alignment is not None for pair in pairs)
    return "to be compared by ear yet" if waits else "listen"


def codec_name(codec: str) -> str:
    """What a codec is called."""
    return NAMES.get(codec, codec.upper())


def find_line(connection: sqlite3.Connection, track_ids: Sequence[int]) -> Line | None:
    """The group of exactly these tracks, None if there is none any more."""
    wanted = tuple(sorted(track_ids))
    return next((line for line in list_lines(connection) if line.group.track_ids == wanted), None)


def members(services: Services, line: Line) -> list[Member]:
    """The tracks of a group, each with its place in time beside the first."""
    read, group = services.database.read(), line.group
    files = twin_facts.list_files(read, group.track_ids)
    found = [Member(files[0], SAME_TIMES, None, "same")] if files else []
    attacks_of = twin_pairs.attacks_from(services.waveforms)
    for file in files[1:]:
        pair = twin_pairs.pair_of(read, attacks_of, group.id, file.track_id)
        likeness = pair.likeness if pair is not None and pair.relation != "different" else None
        found.append(
            Member(file, pair.alignment if pair else None, likeness, pair.relation if pair else "different")
        )
    return found


def look(services: Services, wanted: Settlement) -> tuple[Plan, str] | None:
    """What would be carried over, and its seal: settling goes only by what was seen. None if a track is not
    on the Shelf any more.
    """
    track_ids = (wanted.kept_id, *wanted.copy_ids)
    if len(tracks.existing(services.database.read(), track_ids)) < len(set(track_ids)):
        return None
    plan = services.settler.plan(wanted)
    return plan, seal_of(plan)


def seal_of(plan: Plan) -> str:
    """A short name of all that a plan would change."""
    told = json.dumps(
        [plan.lost, [str(each) for each in plan.differs], twin_carrying.said(plan)], ensure_ascii=False
    )
    return hashlib.sha256(told.encode()).hexdigest()[:16]


def settle(services: Services, wanted: Settlement, aside: bool, seal: str) -> None:
    """Settle one group as it was seen.

    Raises:
        LibraryError: with the reason, if it cannot be, or is not as it was seen; nothing is changed then.
    """

    def check(plan: Plan) -> None:
        if seal_of(plan) != seal:
            raise LibraryError(
                "Something of these tracks has changed since you looked. Look again, then settle."
            )

    name = tracks.get_track(services.database.read(), wanted.kept_id)["title"]
    with services.database.write(f"Settle the twins of “{name}”") as connection:
        services.settler.settle(connection, wanted, aside, check)
    services.aside_putter.begin()


def sure_settlements(connection: sqlite3.Connection) -> list[Settlement]:
    """What becomes of each sure group by its proposal; those that are marked for later are left."""
    return [_proposed(line) for line in list_lines(connection) if _is_sure(line)]


def _is_sure(line: Line) -> bool:
    return line.group.kind == "sure" and not line.group.later


def _proposed(line: Line) -> Settlement:
    copies = tuple(path for _, path, _ in line.group.copies)
    return Settlement(
        line.kept_id, tuple(each for each in line.group.track_ids if each != line.kept_id), copies
    )


def look_at_sure(services: Services) -> Sure:
    """What settling all sure groups would come to."""
    read = services.database.read()
    lines = [line for line in list_lines(read) if _is_sure(line)]
    wanted = [_proposed(line) for line in lines]
    copy_ids = [each for one in wanted for each in one.copy_ids]
    counts = read.execute(
        """SELECT (SELECT count(*) FROM cue WHERE track_id IN ids),
             (SELECT count(*) FROM play WHERE track_id IN ids),
             (SELECT count(*) FROM crate_place WHERE track_id IN ids),
             (SELECT count(*) FROM shelf WHERE id IN ids AND away)
           FROM (SELECT 1)""".replace("IN ids", "IN (SELECT value FROM json_each(?1))"),
        (json.dumps(copy_ids),),
    ).fetchone()
    step = max(1, len(lines) // SAMPLES)
    samples = [
        (line.title, twin_carrying.said(services.settler.plan(one)))
        for line, one in list(zip(lines, wanted, strict=True))[::step][:SAMPLES]
    ]
    files = sum(line.files - 1 for line in lines)
    cues, plays, places, away = counts
    size = sum(line.bytes for line in lines)
    return Sure(len(lines), files, size, cues, plays, places, away, samples)


def settle_sure(services: Services, aside: bool) -> Job:
    """Begin to settle all sure groups as one step.

    Raises:
        LibraryError: if there is none.
    """
    wanted = sure_settlements(services.database.read())
    if not wanted:
        raise LibraryError("There is no sure group to settle.")
    return services.settler.add(wanted, aside)


def use_copy(services: Services, track_id: int, path: str) -> None:
    """Have a noted copy be the track's file, and the file it had the copy.

    Raises:
        LibraryError: if the copy is not there, or was changed.
    """
    with services.database.write() as connection:
        imports.use_copy(connection, track_id, path)
        check_files(connection, [track_id])


def say_no_twins(services: Services, track_ids: Sequence[int]) -> None:
    """Remember that tracks are no twins of each other."""
    track_ids = tracks.existing(services.database.read(), track_ids)
    with services.database.write(f"{many(track_ids).capitalize()} are no twins") as connection:
        twin_pairs.say_no_twins(connection, track_ids)


def mark_later(services: Services, track_ids: Sequence[int], later: bool) -> None:
    """Mark a group to be looked at once more, or not."""
    track_ids = tracks.existing(services.database.read(), track_ids)
    with services.database.write("Look at twins once more" if later else "Look at twins now") as connection:
        twin_pairs.mark_later(connection, track_ids, later)


def set_order(services: Services, order: Order) -> None:
    """Change by which reasons a file is proposed to be kept."""
    with services.database.write("Change which twin is kept") as connection:
        twin_facts.set_order(connection, order)


def search_again(services: Services) -> None:
    """Look at all tracks for twins once more."""
    with services.database.write(background=True) as connection:
        connection.execute("DELETE FROM twin_seen")
    services.twin_finder.begin()


def link_versions(services: Services, track_ids: Sequence[int], name: str, kinds: Mapping[int, str]) -> None:
    """Make tracks versions of one work."""
    track_ids = tracks.existing(services.database.read(), track_ids)
    with services.database.write(f"Link {many(track_ids)} as versions of “{name}”") as connection:
        works.link(connection, track_ids, name, kinds)


def unlink_versions(services: Services, track_ids: Sequence[int]) -> None:
    """Take tracks out of their works."""
    with services.database.write(f"Take {many(track_ids)} from its versions") as connection:
        works.take_apart(connection, track_ids)
