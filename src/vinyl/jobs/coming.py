"""What comes from another library: looked at and compared first, then taken in as it was chosen."""

from __future__ import annotations

import json
from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from contextlib import closing
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

from vinyl.core.carrying.bring import bring
from vinyl.core.carrying.card import Card
from vinyl.core.carrying.collection import Node, walk
from vinyl.core.carrying.lists import FLAT
from vinyl.core.carrying.merging import PARTS, marks_of
from vinyl.core.carrying.traits import SOURCES, Name
from vinyl.core.foreign_paths import PathMapping
from vinyl.exchange.coming import Held, differences
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.model import Place, Told
from vinyl.exchange.lists import Entry
from vinyl.exchange.review import Came, Review
from vinyl.jobs.background import Background
from vinyl.jobs.foreign import OpenThere
from vinyl.jobs.resolving import Known, Resolver, known_of, propose
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.stick_library import source_place
from vinyl.jobs.taking import Taker
from vinyl.library import destinations, jobs, tracks, values
from vinyl.library.carrying import read_nodes, read_tracks
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.jobs import Job
from vinyl.library.values import FIELDS
from vinyl.media.files import AllowedRoots, FolderError
from vinyl.sticks.drives import find_drives

LOOK, TAKE = "look", "take"
BATCH = 200
KEPT_REVIEWS = 12
MOST_PROBLEMS = 500
# Entries that mappings are proposed by.
MOST_TRIED = 5000


@dataclass(frozen=True, slots=True)
class Looking:
    """Which library is looked at, and where its paths lead here."""

    target: Name
    place: str
    mappings: tuple[PathMapping, ...] = ()
    by_names: bool = True


class Comer(Background):
    """The kinds of job that look at another library, and that take in what was chosen of it."""

    def __init__(self, database: Database, roots: AllowedRoots, reviews: Path, open_there: OpenThere) -> None:
        super().__init__(database)
        self._roots, self._reviews, self._open = roots, reviews, open_there
        self._taker = Taker(database)

    def kinds(self) -> Sequence[Kind]:
        return (
            Kind(LOOK, "track", "coming", self._look),
            Kind(TAKE, "track", "taking", self._take),
        )

    def look(self, looking: Looking) -> Job:
        """Begin to look at a library. Nothing is changed, here or there."""
        place = self._place(looking)

        def give_up(there: Sequence[Job]) -> None:
            for job in there:
                self._runner.cancel(job.id)

        subject = f"{SOURCES[looking.target].label}, {place.opened.name}"
        return self._runner.begin(LOOK, subject, asdict(looking), unless=give_up)

    def take(self, look_id: int, lists: bool, plays: bool) -> Job:
        """Begin to take in what was chosen.

        Raises:
            LibraryError: if it is being taken in already.
        """
        job = self._runner.get(look_id)
        self.review_of(look_id)
        if job.kind != LOOK or job.state != "done":
            raise LibraryError("This library has not been looked at yet: look at it first, then take it in.")

        def refuse(there: Sequence[Job]) -> None:
            if any(each.payload["look_id"] == look_id for each in there):
                raise LibraryError("This is being taken in already: Work shows how far.")

        payload = {"look_id": look_id, "lists": lists, "plays": plays}
        return self._runner.begin(TAKE, job.subject, payload, unless=refuse)

    def review_of(self, job_id: int) -> Path:
        """The review of a job.

        Raises:
            NotFoundError: if it is not kept any more.
        """
        path = self._reviews / f"{job_id}.db"
        if not path.is_file():
            raise NotFoundError("This is not kept any more: look at the library anew.")
        return path

    def _place(self, looking: Looking) -> Place:
        try:
            place = source_place(looking.target, self._checked(Path(looking.place)))
        except FolderError as error:
            raise LibraryFormatError(str(error)) from error
        if not place.opened.is_file():
            label = SOURCES[looking.target].label
            raise LibraryFormatError(f"There is no {label} library at {looking.place}.")
        return place

    def _checked(self, path: Path) -> Path:
        """A path that Vinyl may read; one on a removable drive may be looked at too."""
        whole = path.expanduser().resolve()
        if any(whole.is_relative_to(drive.path) for drive in find_drives()):
            return whole
        return self._roots.check(path)

    def _look(self, task: Task) -> None:
        payload = task.job.payload
        mappings = tuple(PathMapping(**each) for each in payload["mappings"])
        looking = Looking(payload["target"], payload["place"], mappings, payload["by_names"])
        place = self._place(looking)
        reader = self._open(looking.target, place, task.check)
        known = known_of(self._database.read(), ())
        resolver = Resolver(known, self._roots, place.base, mappings, looking.by_names)
        sent = self._sent(looking)
        with closing(Review(self._reviews / f"{task.job.id}.db")) as review:
            review.clear()
            batch: list[tuple[str, Card]] = []
            done = 0
            for key, card in reader.cards():
                batch.append((key, card))
                if len(batch) >= BATCH:
                    done = self._compare(task, review, looking, resolver, sent, batch, reader.told, done)
                    batch = []
            done = self._compare(task, review, looking, resolver, sent, batch, reader.told, done)
            self._propose(review, known, resolver)
            _put_lists(review, reader.told, read_nodes(self._database.read()))
            review.put("problems", reader.told.problems[:MOST_PROBLEMS])
        task.keep_result({"tracks": done})
        self._forget_old()

    def _compare(
        self, task: Task, review: Review, looking: Looking, resolver: Resolver,
        sent: Mapping[int, Mapping[str, str]], batch: Sequence[tuple[str, Card]], told: Told, done: int,
    ) -> int:  # fmt: skip
        """Find the tracks of some cards, and what is different of them; returns how many are done."""
        task.check()
        if looking.target == "stick":
            batch = self._at_home(batch)
        came = [_came(key, card, resolver) for key, card in batch]
        ids = [each.track_id for each in came if each.track_id is not None]
        read = self._database.read()
        ours = {int(track.key): track for track in read_tracks(read, ids)}
        held, rules = _held(self._database, ids), values.get_rules(read)
        traits = SOURCES[looking.target]
        review.db.execute("BEGIN")
        review.put_came(came)
        for each, (_, card) in zip(came, batch, strict=True):
            track = ours.get(each.track_id or 0)
            if track is None or each.track_id is None:
                continue
            marks, before = marks_of(card), sent.get(each.track_id, {})
            parts = frozenset(part for part in PARTS if marks[part] != before.get(part))
            try:
                theirs, problems = bring(card, traits, track.key, track.padding_s, track.duration_s)
                found = list(differences(track, theirs, held.get(each.track_id, {}), rules, parts))
            except (ValueError, TypeError, OverflowError) as error:
                told.problems.append(f"{each.title} is not understood: {error}.")
                continue
            told.problems += [f"{each.title}: {problem}" for problem in problems]
            review.put_differences(each.track_id, each.title, found)
        review.db.execute("COMMIT")
        task.progress(done + len(batch), None, came[-1].title if came else "")
        return done + len(batch)

    def _at_home(self, batch: Sequence[tuple[str, Card]]) -> list[tuple[str, Card]]:
        """Cards of a stick with the paths of files here that hold the very same sounds."""
        here = tracks.paths_of_sounds(self._database.read(), [key for key, _ in batch])
        return [(key, replace(card, path=here.get(key, card.path))) for key, card in batch]

    def _sent(self, looking: Looking) -> dict[int, Mapping[str, str]]:
        """What was sent to this very place: that is no news."""
        read = self._database.read()
        found: dict[int, Mapping[str, str]] = {}
        for each in destinations.list_destinations(read):
            if each.target == looking.target and each.told.get("place") == looking.place:
                rows = read.execute(
                    "SELECT track_id, marks FROM carried WHERE destination_id = ?", (each.id,)
                )
                found |= {row["track_id"]: json.loads(row["marks"]) for row in rows}
        return found

    def _propose(self, review: Review, known: Known, resolver: Resolver) -> None:
        """Beginnings of paths that would find more."""
        rows = review.db.execute(
            "SELECT path, artist, title FROM came WHERE state IN ('wanted', 'by name') LIMIT ?", (MOST_TRIED,)
        )
        entries = [Entry(row["path"], row["artist"], row["title"]) for row in rows]
        found = propose(entries, known, resolver)
        said = [
            {"there": each.mapping.there, "here": each.mapping.here, "finds": finds} for each, finds in found
        ]
        review.put("mappings", said)

    def _take(self, task: Task) -> None:
        payload = task.job.payload
        with closing(Review(self.review_of(payload["look_id"]))) as review:
            self._taker.take(task, review, payload["lists"], payload["plays"])

    def _forget_old(self) -> None:
        kept = {job.id for kind in (LOOK, TAKE) for job in jobs.open_jobs(self._database.read(), kind)}
        found = sorted((int(f.stem), f) for f in self._reviews.glob("*.db") if f.stem.isdecimal())
        for job_id, file in found[:-KEPT_REVIEWS]:
            if job_id not in kept:
                for each in self._reviews.glob(f"{file.name}*"):
                    each.unlink(missing_ok=True)


def _came(key: str, card: Card, resolver: Resolver) -> Came:
    artist, title = card.words.get("artist", ""), card.words.get("title", "")
    found = resolver.resolve(Entry(card.path, artist, title))
    said = " – ".join(filter(None, (artist, title))) or card.path
    told = json.dumps(card.told(), ensure_ascii=False)
    return Came(key, card.path, said, artist, found.track_id, found.state, found.file, told, found.reason)


def _held(database: Database, track_ids: Sequence[int]) -> dict[int, Held]:
    """What each source says of tracks."""
    rows = database.read().execute(
        """SELECT track_id, field, source, value FROM track_value
           WHERE field IN (SELECT value FROM json_each(?)) AND track_id IN (SELECT value FROM json_each(?))
             AND (value IS NOT NULL OR source = 'locked')""",
        (json.dumps(FIELDS), json.dumps(list(track_ids))),
    )
    found: dict[int, dict[Any, dict[Any, str]]] = {}
    for row in rows:
        found.setdefault(row["track_id"], {}).setdefault(row["field"], {})[row["source"]] = row["value"] or ""
    return found  # type: ignore[return-value]


def _put_lists(review: Review, told: Told, ours: tuple[Node, ...]) -> None:
    """Keep lists and plays with what is found of them. A list that is here just so is no news."""
    ids = {row["key"]: row["track_id"] for row in review.db.execute("SELECT key, track_id FROM came")}
    here = {
        (name, node.tracks)
        for within, node in walk(ours)
        for name in (node.name, FLAT.join((*within, node.name)))
    }
    lists = tuple(_new_lists(told.lists, ids, here))
    review.put("lists", [asdict(node) for node in lists])
    review.put("plays", [[play.key, play.played_at, play.night] for play in told.plays])
    rows = [
        {
            "name": " / ".join((*within, node.name)),
            "kind": node.kind,
            "tracks": len(node.tracks),
            "found": sum(ids.get(key) is not None for key in node.tracks),
        }
        for within, node in walk(lists)
        if node.kind != "folder"
    ]
    review.put("list_rows", rows)


def _new_lists(
    nodes: Iterable[Node], ids: Mapping[str, int | None], here: Container[tuple[str, tuple[str, ...]]]
) -> Iterator[Node]:
    for node in nodes:
        if node.kind == "folder":
            inner = tuple(_new_lists(node.inner, ids, here))
            if inner:
                yield replace(node, inner=inner)
        elif (node.name, tuple(str(ids.get(key)) for key in node.tracks)) not in here:
            yield node
