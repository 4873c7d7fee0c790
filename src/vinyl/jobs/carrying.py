"""Carrying lists to other libraries: the ledger first, then writing, reading back and comparing."""

from __future__ import annotations

import json
import sqlite3
from collections import deque
from collections.abc import Iterator, Sequence
from concurrent.futures import Future
from contextlib import closing
from dataclasses import asdict
from datetime import datetime
from itertools import islice
from pathlib import Path

from vinyl.core.carrying.card import card_of
from vinyl.core.carrying.collection import Node, walk
from vinyl.core.carrying.lists import carry_lists
from vinyl.core.carrying.merging import merge_lists
from vinyl.core.carrying.traits import PLAYLISTS, TARGETS
from vinyl.exchange.checking import check
from vinyl.exchange.desk import Desk
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.model import Place, Told
from vinyl.exchange.libraries.opening import place_of
from vinyl.exchange.libraries.recording import Recorded, write_records
from vinyl.exchange.libraries.tidewrack import pack_record
from vinyl.exchange.order import Order, Source, order_of, order_to
from vinyl.exchange.weighing import Weighed, path_key, way_of, weigh, weigh_ids
from vinyl.exchange.writing import nodes_of, write_library
from vinyl.jobs.background import Background
from vinyl.jobs.foreign import OpenThere
from vinyl.jobs.route_files import RouteFiles
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.straight import StraightSource
from vinyl.jobs.tally import Tally
from vinyl.jobs.workers import Workers, result_of
from vinyl.library import cues, destinations, imports, jobs
from vinyl.library.carrying import read_nodes, read_plays
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.jobs import Job
from vinyl.media.files import AllowedRoots, FolderError

LEDGER, CARRY = "ledger", "carry"
BATCH = 400
# So few are weighed at once, without a process of their own.
FEW = 200
LIMIT_S = 600.0
KEPT_DESKS = 12
MOST_PROBLEMS = 200
# The list that routes stand in which go as files.
ROUTES = "Routes"
# Files of an errand that writes tags, and errands at once.
FILES, AT_ONCE = 20, 3


class Carrier(Background):
    """The kinds of job that make a ledger, and that write a library."""

    def __init__(
        self,
        database: Database,
        roots: AllowedRoots,
        workers: Workers,
        desks: Path,
        kept_tags: Path,
        open_there: OpenThere,
    ) -> None:
        super().__init__(database)
        self._roots, self._workers, self._open = roots, workers, open_there
        self._desks, self._kept_tags = desks, kept_tags
        self._routes = RouteFiles(database, roots, workers, desks.parent / "scratch")

    def kinds(self) -> Sequence[Kind]:
        return (
            Kind(LEDGER, "track", "ledger", self._make_ledger),
            Kind(CARRY, "track", "carrying", self._carry),
        )

    def weigh(self, order: Order) -> Job:
        """Begin to make a ledger; one that is being made for another order is given up."""
        self._place(order)

        def give_up(there: Sequence[Job]) -> None:
            for job in there:
                self._runner.cancel(job.id)

        subject = f"what goes to {TARGETS[order.target].label}"
        return self._runner.begin(LEDGER, subject, {"order": order_to(order)}, unless=give_up)

    def carry(self, order: Order) -> Job:
        """Begin to write.

        Raises:
            LibraryError: if the same place is being written already.
        """
        place = self._place(order)

        def refuse(there: Sequence[Job]) -> None:
            if any(job.payload["order"]["place"] == order.place for job in there):
                raise LibraryError(f"{place.opened.name} is being written already.")

        subject = f"to {TARGETS[order.target].label}, {place.opened.name}"
        return self._runner.begin(CARRY, subject, {"order": order_to(order)}, unless=refuse)

    def desk_of(self, job_id: int) -> Path:
        """The desk of a job.

        Raises:
            NotFoundError: if it is not kept any more.
        """
        path = self._desks / f"{job_id}.db"
        if not path.is_file():
            raise NotFoundError("This ledger is not kept any more: make it anew.")
        return path

    def _place(self, order: Order) -> Place:
        """Where an order goes.

        Raises:
            LibraryFormatError: if nothing can be written there.
        """
        if not order.place.strip():
            raise LibraryFormatError("Say where the library is to be written: a file or a folder.")
        try:
            place = place_of(order.target, self._roots.check(Path(order.place)))
        except FolderError as error:
            raise LibraryFormatError(str(error)) from error
        if not place.base.is_dir():
            raise LibraryFormatError(f"There is no folder {place.base}: make it, or choose another.")
        return place

    def _make_ledger(self, task: Task) -> None:
        order = order_of(task.job.payload["order"])
        with self._desk(task.job.id) as desk:
            self._weigh(task, order, desk, self._place(order))
        self._forget_old()

    def _carry(self, task: Task) -> None:
        order = order_of(task.job.payload["order"])
        place = self._place(order)
        with self._desk(task.job.id) as desk:
            self._weigh(task, order, desk, place)
            if order.options.routes == "audio" and order.source is None:
                self._put_routes(task, order, desk, place)
            at = datetime.now()
            total = desk.db.execute("SELECT count(*) FROM card").fetchone()[0]

            def tell(number: int, title: str = "") -> None:
                task.check()
                task.progress(min(number, total), total, title)

            records = self._write_records(task, desk, total) if order.target == "tidewrack" else 0
            kept = write_library(desk, order, place, at, tell)
            task.progress(0, total, "reading back")
            checked = check(desk, order, place, nodes_of(desk.get("lists", [])), tell)
            self._note(order, desk)
        written = place.base if order.target in PLAYLISTS else place.opened
        task.keep_result({
            **asdict(checked), "place": str(written), "kept": str(kept) if kept else None,
            "destination_id": order.destination_id, "written": records,
        })  # fmt: skip
        self._forget_old()

    def _put_routes(self, task: Task, order: Order, desk: Desk, place: Place) -> None:
        """Write routes as files, and put them on the desk in a list of their own."""
        made = self._routes.write(task, desk, place.base, way_of(order))
        if not made:
            return
        for each in made:
            told = json.dumps(each.card.told(), ensure_ascii=False)
            key = path_key(each.card.path, order)
            desk.db.execute("UPDATE theirs SET used = 1 WHERE path_key = ?", (key,))
            desk.db.execute(
                "INSERT OR IGNORE INTO card (key, path_key, path, title, told, marks, state) "
                "VALUES (?, ?, ?, ?, ?, '{}', 'new')",
                (each.key, key, str(each.path), each.title, told),
            )
        lists = [each for each in desk.get("lists", []) if each["name"] != ROUTES]
        node = Node(ROUTES, "list", tuple(each.key for each in made))
        desk.put("lists", [*lists, asdict(node)])

    def _write_records(self, task: Task, desk: Desk, total: int) -> int:
        """Write each track's record into its file, some files an errand and some errands at once; returns how
        many files were changed.
        """
        rows = desk.db.execute("SELECT n, key, path, title, told FROM card ORDER BY n").fetchall()
        errands = [rows[start : start + FILES] for start in range(0, len(rows), FILES)]
        kept = self._kept_tags / str(task.job.id)
        waiting: list[tuple[list[sqlite3.Row], Future[list[Recorded]]]] = []
        done = changed = 0
        while errands or waiting:
            task.check()
            while errands and len(waiting) < AT_ONCE:
                part = errands.pop(0)
                files = [(row["key"], row["path"], _record(row["told"])) for row in part]
                waiting.append(
                    (part, self._workers.submit(write_records, files, kept, self._roots, timeout_s=LIMIT_S))
                )
            part, future = waiting.pop(0)
            done_now: list[Recorded] = result_of(future)
            changed += sum(each.written is not None for each in done_now)
            for row, recorded in zip(part, done_now, strict=True):
                self._take_record(task, desk, row, recorded)
            done += len(part)
            task.progress(done, total, part[-1]["title"])
        return changed

    def _take_record(self, task: Task, desk: Desk, row: sqlite3.Row, recorded: Recorded) -> None:
        """Note what a file is now, so that it is not taken for changed by somebody else."""
        track_id = int(row["key"]) if row["key"].isdecimal() else None
        if recorded.refused:
            task.fail_item(row["title"], recorded.refused, track_id)
            desk.db.execute("UPDATE card SET done = -1 WHERE n = ?", (row["n"],))
        elif recorded.written is not None and track_id is not None:
            size, modified = recorded.written.size_bytes, recorded.written.modified_ns
            with self._database.write(background=True) as connection:
                imports.note_place(connection, track_id, row["path"], size, modified)

    def _note(self, order: Order, desk: Desk) -> None:
        """Note what was carried, so that the next time only what changed need go."""
        if order.destination_id is None or order.source is not None:
            return
        rows = desk.db.execute("SELECT key, marks FROM card").fetchall()
        marks = [(int(row["key"]), row["marks"]) for row in rows if row["key"].isdecimal()]
        with self._database.write(background=True) as connection:
            destinations.note_carried(connection, order.destination_id, marks)

    def _desk(self, job_id: int) -> closing[Desk]:
        return closing(Desk(self._desks / f"{job_id}.db"))

    def _weigh(self, task: Task, order: Order, desk: Desk, place: Place) -> None:
        """Make the ledger of an order on a desk."""
        desk.clear()
        told = self._read_theirs(task, order, desk, place)
        tally = Tally(order)
        if order.source is not None:
            nodes, problems = self._weigh_straight(task, order, order.source, desk, tally)
        else:
            nodes, problems = self._weigh_own(task, order, desk, tally), []
        made, outcomes = carry_lists(nodes, TARGETS[order.target], order.options)
        tally.take_lists(desk, outcomes)
        self._put_lists(desk, order, made, told)
        problems = [*told.problems, *problems][:MOST_PROBLEMS]
        desk.put("told", tally.told() | {"problems": problems, "lists": _many_lists(made)})
        task.keep_result({"tracks": tally.tracks})

    def _weigh_own(self, task: Task, order: Order, desk: Desk, tally: Tally) -> tuple[Node, ...]:
        nodes, ids = self._chosen(order)
        done = 0
        for part in self._weighed(task, ids, order, desk):
            tally.take(desk, part)
            done += len(part)
            task.progress(done, len(ids))
        if TARGETS[order.target].places != 0:
            desk.put("without in point", cues.without_in_point(self._database.read(), ids))
        if TARGETS[order.target].keeps_plays:
            plays = read_plays(self._database.read(), ids)
            desk.put("plays", [[play.key, play.played_at, play.night] for play in plays])
        return nodes

    def _weigh_straight(
        self, task: Task, order: Order, source: Source, desk: Desk, tally: Tally
    ) -> tuple[tuple[Node, ...], list[str]]:
        """Weigh what another library holds; the own collection has no part in it."""
        straight = StraightSource(source, self._database.read(), self._roots, self._open, task.check)
        done, tracks = 0, straight.tracks()
        while part := list(islice(tracks, BATCH)):
            task.check()
            done += len(part)
            task.progress(done, None, part[-1].path)
            tally.take(desk, weigh(part, order, desk.path if _has_theirs(desk) else None, {}))
        lists = straight.lists()
        desk.put("plays", [[play.key, play.played_at, play.night] for play in straight.told.plays])
        return lists, straight.told.problems

    def _weighed(self, task: Task, ids: Sequence[int], order: Order, desk: Desk) -> Iterator[list[Weighed]]:
        """Tracks weighed in batches, two batches at once where there are many."""
        there = desk.path if _has_theirs(desk) else None
        batches = [list(ids[start : start + BATCH]) for start in range(0, len(ids), BATCH)]
        if len(ids) <= FEW:
            yield from (weigh_ids(self._database.path, batch, order, there) for batch in batches)
            return
        library, waiting = self._database.path, deque[Future[list[Weighed]]]()
        while batches or waiting:
            task.check()
            while batches and len(waiting) < AT_ONCE:
                batch = batches.pop(0)
                waiting.append(
                    self._workers.submit(weigh_ids, library, batch, order, there, timeout_s=LIMIT_S)
                )
            yield result_of(waiting.popleft())

    def _read_theirs(self, task: Task, order: Order, desk: Desk, place: Place) -> Told:
        """Keep what the other library has already; nothing where there is none."""
        if not place.opened.exists():
            return Told()
        reader = self._open(order.target, place, task.check)

        def rows() -> Iterator[tuple[str, str, str]]:
            for number, (key, card) in enumerate(reader.cards()):
                if number % BATCH == 0:
                    task.check()
                    task.progress(0, None, "reading what is there")
                told = json.dumps(card.told(), ensure_ascii=False)
                yield f"there {key}", path_key(card.path, order), told

        desk.db.execute("BEGIN")
        desk.put_theirs(rows())
        desk.db.execute("COMMIT")
        return reader.told

    def _chosen(self, order: Order) -> tuple[tuple[Node, ...], list[int]]:
        """The lists that go, and the ids of all tracks that go, each once."""
        read = self._database.read()
        if order.tracks:
            return (), list(dict.fromkeys(order.tracks))
        nodes = read_nodes(read, order.lists)
        if order.lists is None:
            return nodes, [row[0] for row in read.execute("SELECT id FROM shelf ORDER BY id")]
        keys = dict.fromkeys(key for _, node in walk(nodes) for key in node.tracks)
        return nodes, [int(key) for key in keys]

    def _put_lists(self, desk: Desk, order: Order, ours: tuple[Node, ...], told: Told) -> None:
        """Our lists and those that stay of theirs, whose tracks have our keys where they are ours."""
        same = {
            f"there {row['there']}": row["key"]
            for row in desk.db.execute(
                "SELECT substr(t.key, 7) AS there, c.key FROM theirs t JOIN card c ON c.path_key = t.path_key"
            )
        }
        theirs = tuple(_renamed(node, same) for node in told.lists)
        lists, vanish = merge_lists(ours, theirs, order.mirror)
        gone = []
        if order.mirror:
            rows = desk.db.execute("SELECT told FROM theirs WHERE NOT used ORDER BY n").fetchall()
            gone = [json.loads(row["told"])["path"] for row in rows]
            desk.db.execute("UPDATE theirs SET used = 1")
        desk.put("lists", [asdict(node) for node in lists])
        desk.put("vanish", {"lists": vanish, "tracks": gone[:2000], "count": len(gone)})

    def _forget_old(self) -> None:
        """The newest desks are kept, and those of jobs that go on."""
        kept = {job.id for kind in (LEDGER, CARRY) for job in jobs.open_jobs(self._database.read(), kind)}
        found = sorted((int(f.stem), f) for f in self._desks.glob("*.db") if f.stem.isdecimal())
        for job_id, file in found[:-KEPT_DESKS]:
            if job_id not in kept:
                for each in self._desks.glob(f"{file.name}*"):
                    each.unlink(missing_ok=True)


def _has_theirs(desk: Desk) -> bool:
    """Whether the other library has any tracks."""
    return desk.db.execute("SELECT 1 FROM theirs LIMIT 1").fetchone() is not None


def _renamed(node: Node, same: dict[str, str]) -> Node:
    tracks = tuple(same.get(f"there {key}", f"there {key}") for key in node.tracks)
    return Node(node.name, node.kind, tracks, tuple(_renamed(each, same) for each in node.inner), node.rule)


def _record(told: str) -> str:
    return pack_record(card_of(json.loads(told)))


def _many_lists(nodes: tuple[Node, ...]) -> int:
    return sum(node.kind != "folder" for _, node in walk(nodes))
