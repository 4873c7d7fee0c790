"""``./vinyl convert``: between libraries, by the server that runs or without one."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, get_args

from vinyl.api.convert import job_out
from vinyl.api.exchange_out import ledger_out, report_out, review_out
from vinyl.api.models.exchange import OrderBody
from vinyl.commands.client import Way, open_library, way_to
from vinyl.core.carrying.merging import PARTS, Policy
from vinyl.core.carrying.traits import TARGETS, Name
from vinyl.core.errors import VinylError
from vinyl.core.foreign_paths import PathMapping
from vinyl.exchange.libraries.opening import kind_of
from vinyl.exchange.order import order_of
from vinyl.jobs.coming import Looking
from vinyl.library import crates

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


def _way(home: Path, wanted: Wanted) -> AbstractContextManager[Way]:
    named = [_path(side) for side in (wanted.source, wanted.target) if side != OWN]
    return way_to(home, [path if path.is_dir() else path.parent for path in named])


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
    body = {"place": str(place), "lists": lists}
    write = "/api/exchange/documents"
    job = way.finished(way.ask(write, lambda use: job_out(use.documents.write(place, lists)), body))
    result = job["result"]
    _say(wanted, {"written": result}, [f"{result['tracks']} tracks: {result['place']}"])
    return 0


def _restore(way: Way, wanted: Wanted, place: Path) -> int:
    """Make an empty library what a document says."""
    body = {"place": str(place), "mappings": _pairs(wanted)}
    mappings = [PathMapping(there, here) for here, there in wanted.paths]
    restore = "/api/exchange/restores"
    job = way.finished(way.ask(restore, lambda use: job_out(use.documents.restore(place, mappings)), body))
    _say(wanted, {"restored": job["result"]}, [f"{job['result']['tracks']} tracks are in the library now"])
    return 0


def _there(way: Way, home: Path, wanted: Wanted) -> int:
    kind, place = _side(wanted.target)
    if kind == "vinyl":
        return _document(way, home, wanted, place)
    body = _order(home, wanted)
    asked, order = body.model_dump(), order_of(body.model_dump())
    made = way.ask("/api/exchange/ledgers", lambda use: job_out(use.carrier.weigh(order)), asked)
    number = way.finished(made)["id"]
    ledger = way.ask(f"/api/exchange/ledgers/{number}", lambda use: ledger_out(use, number))
    if wanted.dry_run:
        _say(wanted, {"ledger": ledger}, _ledger_lines(ledger, body.target))
        return 0
    made = way.ask("/api/exchange/carryings", lambda use: job_out(use.carrier.carry(order)), asked)
    written = way.finished(made)["id"]
    report = way.ask(f"/api/exchange/carryings/{written}", lambda use: report_out(use, written))
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
        "mappings": _pairs(wanted),
        "system": "windows" if any(there[1:2] == ":" for _, there in wanted.paths) else "this one",
        "lists": _lists(home, wanted.lists) if wanted.lists else None, "source": source,
    })  # fmt: skip


def _pairs(wanted: Wanted) -> list[dict[str, str]]:
    return [{"here": here, "there": there} for here, there in wanted.paths]


def _lists(home: Path, names: Sequence[str]) -> list[int]:
    known = {name.casefold(): number for number, name in crates.names(open_library(home).read())}
    missing = [name for name in names if name.casefold() not in known]
    if missing:
        raise VinylError(f"There is no list called “{missing[0]}”.")
    return [known[name.casefold()] for name in names]


def _home(way: Way, home: Path, wanted: Wanted) -> int:
    kind, place = _side(wanted.source)
    if kind == "vinyl" and not wanted.dry_run and _is_empty(home):
        return _restore(way, wanted, place)
    body = {"target": kind, "place": str(place), "mappings": _pairs(wanted)}
    looking = Looking(kind, str(place), tuple(PathMapping(there, here) for here, there in wanted.paths))
    looks = "/api/exchange/looks"
    number = way.finished(way.ask(looks, lambda use: job_out(use.comer.look(looking)), body))["id"]
    review = way.ask(f"{looks}/{number}", lambda use: review_out(use, number))
    lines = [*_review_lines(review)]
    if wanted.dry_run:
        _say(wanted, {"review": review}, lines)
        return 0
    taking = {"lists": True, "plays": True}
    job = way.finished(
        way.ask(f"{looks}/{number}/take", lambda use: job_out(use.comer.take(number, **taking)), taking)
    )
    result = job["result"]
    lines.append(f"taken in: {result['tracks']} tracks, {result['lists']} lists, {result['nights']} nights")
    _say(wanted, {"review": review, "taken": result}, lines)
    return 1 if job["failures"] or review["problems"] else 0


def _is_empty(home: Path) -> bool:
    read = open_library(home).read()
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
    yield from _vanish_lines(ledger["vanish"])
    for problem in ledger["problems"]:
        print(problem, file=sys.stderr)


def _vanish_lines(vanish: Mapping[str, Any]) -> Iterator[str]:
    """What a mirror leaves no more of on the other side."""
    if vanish["lists"] or vanish["count"]:
        yield f"  would vanish there: lists {len(vanish['lists'])}, tracks {vanish['count']}"
    for each in (*vanish["lists"], *vanish["tracks"]):
        yield f"    {each}"
    if (rest := vanish["count"] - len(vanish["tracks"])) > 0:
        yield f"    and {rest} tracks more"


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
