"""``./vinyl convert``: between libraries, by the server that runs or without one."""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, get_args

from vinyl.api import coming, exchange
from vinyl.api.convert import job_out
from vinyl.api.models.exchange import (
    DocumentIn,
    LibraryLookIn,
    OrderBody,
    PathPair,
    RestoreIn,
    TakeIn,
)
from vinyl.api.services import Services, Settings
from vinyl.bringing import ENDED, LOOK_S, ask_server
from vinyl.core.carrying.merging import PARTS, Policy
from vinyl.core.carrying.traits import TARGETS, Name
from vinyl.core.errors import VinylError
from vinyl.exchange.libraries.opening import kind_of
from vinyl.library import crates
from vinyl.library.database import Database
from vinyl.library.lock import HomeInUseError, address_of, lock_home

OWN = "library"
FATES = ("as it is", "changed", "left here")


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be converted: between which sides, which lists, and how."""

    source: str
    target: str
    lists: tuple[str, ...] = ()
    options: Mapping[str, str] | None = None
    paths: tuple[tuple[str, str], ...] = ()
    mirror: bool = False
    dry_run: bool = False
    as_json: bool = False
    theirs: Policy = "leave"


class Way:
    """How what is asked is done: by the server that has the home open, or here."""

    def __init__(self, services: Services | None, address: str = "") -> None:
        self._services, self._address = services, address

    def post(self, path: str, body: Any, here: Callable[[Services], Any]) -> dict[str, Any]:
        """Ask for something to be begun; returns the job."""
        if self._services is None:
            return ask_server(self._address, f"/api/exchange/{path}", body)  # type: ignore[no-any-return]
        return here(self._services).model_dump()  # type: ignore[no-any-return]

    def get(self, path: str, here: Callable[[Services], Any]) -> dict[str, Any]:
        """Ask for what was found."""
        if self._services is None:
            return ask_server(self._address, f"/api/exchange/{path}")  # type: ignore[no-any-return]
        return here(self._services).model_dump()  # type: ignore[no-any-return]

    def finished(self, job: Mapping[str, Any]) -> dict[str, Any]:
        """A job once it has ended.

        Raises:
            VinylError: if it has not ended well.
        """
        while job["state"] not in ENDED:
            time.sleep(LOOK_S)
            if self._services is None:
                job = ask_server(self._address, f"/api/jobs/{job['id']}")
            else:
                job = job_out(self._services.runner.get(job["id"])).model_dump()
        if job["state"] != "done":
            raise VinylError(job["error"] or "It was cancelled.")
        return dict(job)


def convert(home: Path, wanted: Wanted) -> int:
    """Convert, and say what became of it. The exit code is 0 if every value came over as it was said, 1 if
    not.

    Raises:
        VinylError: for sides that there are not, and whatever stops it.
    """
    with _way(home, wanted) as way:
        if wanted.target == OWN:
            return _home(way, home, wanted)
        return _there(way, home, wanted)


@contextmanager
def _way(home: Path, wanted: Wanted) -> Iterator[Way]:
    try:
        lock = lock_home(home)
    except HomeInUseError:
        yield Way(None, address_of(home))
        return
    named = [_path(side) for side in (wanted.source, wanted.target) if side != OWN]
    allowed = tuple(path if path.is_dir() else path.parent for path in named)
    services = Services(Settings(home, Path(), allow=allowed))
    services.runner.start()
    try:
        with lock:
            yield Way(services)
    finally:
        services.stop()


def _side(side: str) -> tuple[Name, Path]:
    """The kind and the place of a side: "reedbank:/a/folder", or a path whose name tells the kind."""
    name, colon, rest = side.partition(":")
    if colon and name in get_args(Name):
        return name, Path(rest).resolve()  # type: ignore[return-value]
    kind = kind_of(_path(side))
    if kind is None:
        known = ", ".join(get_args(Name))
        raise VinylError(f"{side} tells no kind of library. Write it as KIND:PATH; kinds are {known}.")
    return kind, _path(side)


def _path(side: str) -> Path:
    name, colon, rest = side.partition(":")
    return Path(rest if colon and name in get_args(Name) else side).resolve()


def _document(way: Way, home: Path, wanted: Wanted, place: Path) -> int:
    """Write the library as Vinyl's own document."""
    if wanted.source != OWN or wanted.dry_run:
        raise VinylError("Vinyl's own document is written of the own library, as a whole.")
    lists = _lists(home, wanted.lists) if wanted.lists else None
    body = DocumentIn(place=str(place), lists=lists)
    job = way.finished(
        way.post("documents", body.model_dump(), lambda use: exchange.write_document(use, body))
    )
    result = job["result"]
    _say(wanted, {"written": result}, [f"{result['tracks']} tracks: {result['place']}"])
    return 0


def _restore(way: Way, wanted: Wanted, place: Path) -> int:
    """Make an empty library what a document says."""
    body = RestoreIn(
        place=str(place), mappings=[PathPair(here=here, there=there) for here, there in wanted.paths]
    )
    job = way.finished(
        way.post("restores", body.model_dump(), lambda use: exchange.restore_document(use, body))
    )
    _say(wanted, {"restored": job["result"]}, [f"{job['result']['tracks']} tracks are in the library now"])
    return 0


def _there(way: Way, home: Path, wanted: Wanted) -> int:
    kind, place = _side(wanted.target)
    if kind == "vinyl":
        return _document(way, home, wanted, place)
    body = _order(home, wanted)
    job = way.finished(way.post("ledgers", body.model_dump(), lambda use: exchange.make_ledger(use, body)))
    ledger = way.get(f"ledgers/{job['id']}", lambda use: exchange.get_ledger(use, job["id"]))
    if wanted.dry_run:
        _say(wanted, {"ledger": ledger}, _ledger_lines(ledger, body.target))
        return 0
    asked = body.model_dump()
    job = way.finished(way.post("carryings", asked, lambda use: exchange.start_carrying(use, body)))
    report = way.get(f"carryings/{job['id']}", lambda use: exchange.get_report(use, job["id"]))
    lines = [*_ledger_lines(ledger, body.target), *_report_lines(report)]
    _say(wanted, {"ledger": ledger, "report": report}, lines)
    return 0 if report["equal"] == report["values"] and not report["failures"] else 1


def _order(home: Path, wanted: Wanted) -> OrderBody:
    target, place = _side(wanted.target)
    source = None
    if wanted.source != OWN:
        kind, where = _side(wanted.source)
        source = {"target": kind, "place": str(where)}
        if wanted.lists:
            raise VinylError("Lists can be chosen of the own library only.")
    return OrderBody.model_validate({
        "policies": dict.fromkeys(PARTS, wanted.theirs),
        "target": target, "place": str(place), "options": dict(wanted.options or {}), "mirror": wanted.mirror,
        "mappings": [{"here": here, "there": there} for here, there in wanted.paths],
        "system": "windows" if any(there[1:2] == ":" for _, there in wanted.paths) else "this one",
        "lists": _lists(home, wanted.lists) if wanted.lists else None, "source": source,
    })  # fmt: skip


def _lists(home: Path, names: Sequence[str]) -> list[int]:
    known = {name.casefold(): number for number, name in crates.names(Database(home / "library.db").read())}
    missing = [name for name in names if name.casefold() not in known]
    if missing:
        raise VinylError(f"There is no list called “{missing[0]}”.")
    return [known[name.casefold()] for name in names]


def _home(way: Way, home: Path, wanted: Wanted) -> int:
    kind, place = _side(wanted.source)
    if kind == "vinyl" and not wanted.dry_run and _is_empty(home):
        return _restore(way, wanted, place)
    mappings = [{"here": here, "there": there} for here, there in wanted.paths]
    body = LibraryLookIn.model_validate({"target": kind, "place": str(place), "mappings": mappings})
    look = way.finished(way.post("looks", body.model_dump(), lambda use: coming.look_at(use, body)))
    review = way.get(f"looks/{look['id']}", lambda use: coming.get_review(use, look["id"]))
    lines = [*_review_lines(review)]
    if wanted.dry_run:
        _say(wanted, {"review": review}, lines)
        return 0
    take, number = TakeIn(), look["id"]
    asked = take.model_dump()
    job = way.finished(way.post(f"looks/{number}/take", asked, lambda use: coming.take_in(use, number, take)))
    result = job["result"]
    lines.append(f"taken in: {result['tracks']} tracks, {result['lists']} lists, {result['nights']} nights")
    _say(wanted, {"review": review, "taken": result}, lines)
    return 1 if job["failures"] or review["problems"] else 0


def _is_empty(home: Path) -> bool:
    read = Database(home / "library.db").read()
    return not any(
        read.execute(f"SELECT 1 FROM {table} LIMIT 1").fetchone() for table in ("track", "crate", "gig")
    )


def _say(wanted: Wanted, told: Mapping[str, Any], lines: Iterable[str]) -> None:
    print(json.dumps(told, ensure_ascii=False) if wanted.as_json else "\n".join(lines), flush=True)


def _ledger_lines(ledger: Mapping[str, Any], target: str) -> Iterator[str]:
    yield f"{ledger['tracks']} tracks, {ledger['lists']} lists to {TARGETS[target].label}"  # type: ignore[index]
    kinds: dict[str, dict[str, int]] = {}
    for each in ledger["counts"]:
        kinds.setdefault(each["kind"], dict.fromkeys(FATES, 0))[each["fate"]] += each["count"]
    for kind, counts in kinds.items():
        yield f"  {kind:16}" + "".join(f"{counts[fate]:9} {fate}" for fate in FATES)
    for part, count in ledger["later"].items():
        yield f"  {count} with {part} that the other side has of its own (--theirs)"
    for problem in ledger["problems"]:
        print(problem, file=sys.stderr)


def _report_lines(report: Mapping[str, Any]) -> Iterator[str]:
    yield f"{report['equal']} of {report['values']} values were read back as promised: {report['place']}"
    if report["kept"]:
        yield f"what was there before: {report['kept']}"
    for each in report["findings"]:
        yield f"  {each['track']}, {each['what']}: promised {each['promised']}, found {each['found']}"
    if report["failures"]:
        yield f"{report['failures']} files could not be written"


def _review_lines(review: Mapping[str, Any]) -> Iterator[str]:
    for state, count in review["states"].items():
        yield f"{count:9} {state}"
    for each in review["kinds"]:
        yield f"  {each['kind']:16}{each['values']:9} differ: {each['choice']}"
    for problem in review["problems"]:
        print(problem, file=sys.stderr)
