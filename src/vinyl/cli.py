"""The command line. Each command imports what it needs: to analyse a file, no server has to be loaded."""

from __future__ import annotations

import argparse
import json
import logging
import os
import socket
import sqlite3
import sys
import threading
import time
import urllib.request
import webbrowser
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from pathlib import Path
from typing import Any, TextIO

from platformdirs import user_data_path

from vinyl.core.errors import VinylError

DEFAULT_PORT = 8420
WEB = Path(__file__).resolve().parents[2] / "web" / "dist"
SET_ORDERS = ("tempo", "keys", "arc", "all")
FILE_FORMS = ("text", "m3u8", "cue", "csv")
BENCH_PARTS = (
    "rhythm", "key", "agreement", "likeness", "twins", "speed", "library", "import", "sticks", "demo",
)  # fmt: skip

STICK_VERBS = ("list", "plan", "pack", "check", "pull-changes")
# What holds where both sides have changed; without an answer such a value stays open.
BOTH_CHANGED = ("ask", "player", "here")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit code."""
    options = _parser().parse_args(arguments)
    logging.basicConfig(level=logging.INFO, format="%(levelname)s %(name)s: %(message)s")
    try:
        code: int = options.run(options)
    except VinylError as error:
        print(f"vinyl: {error}", file=sys.stderr)
        return 1
    except (OSError, sqlite3.Error) as error:
        from vinyl.library.storage import storage_words

        words = storage_words(error)
        if words is None:
            raise
        print(f"vinyl: {words}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130
    return code


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="vinyl", description="A DJ's home work, from a folder of audio to the gig."
    )
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    for name, run, text in (
        ("demo", _demo, "make the demo collection and start"),
        ("start", _start, "start with your own music"),
    ):
        command = commands.add_parser(name, help=text)
        if name == "demo":
            command.add_argument(
                "--bare",
                action="store_true",
                help="make the music first, and leave it to be imported by hand",
            )
        command.add_argument("--port", type=int, default=DEFAULT_PORT)
        command.add_argument(
            "--home", type=Path, default=user_data_path("vinyl") / ("demo" if name == "demo" else "home")
        )
        command.add_argument(
            "--allow",
            type=Path,
            action="append",
            default=[],
            metavar="FOLDER",
            help="a folder that Vinyl may read, besides home, /media and /mnt",
        )
        command.add_argument(
            "--workers", type=int, default=None, help="processes for analysis; as many as cores if not given"
        )
        command.add_argument(
            "--nice", type=int, default=19, choices=range(20), metavar="0-19",
            help="how far the analysis gives way to other programs; all the way if not given",
        )  # fmt: skip
        command.add_argument("--no-open", action="store_true", help="do not open the browser")
        command.set_defaults(run=run)
    bring = commands.add_parser("import", help="bring files and folders into the library")
    bring.add_argument("paths", nargs="+", type=Path, metavar="PATH")
    bring.add_argument("--home", type=Path, default=user_data_path("vinyl") / "home")
    bring.set_defaults(run=_import)
    _add_crate(commands)
    finding = commands.add_parser("find", help="print the tracks that some words mean")
    finding.add_argument("words", nargs="+", help="such as: house 120 to 126, not played since October")
    finding.add_argument("--home", type=Path, default=user_data_path("vinyl") / "home")
    finding.set_defaults(run=_find)
    twins = commands.add_parser("twins", help="print which tracks are there more than once")
    twins.add_argument("--json", action="store_true", help="with all that is known, as JSON")
    twins.add_argument("--home", type=Path, default=user_data_path("vinyl") / "home")
    twins.set_defaults(run=_twins)
    _add_set(commands)
    _add_log(commands)
    _add_convert(commands)
    _add_stick(commands)
    analyze = commands.add_parser("analyze", help="analyse files and print the results")
    analyze.add_argument("files", nargs="+", metavar="FILE")
    analyze.add_argument("--json", action="store_true", help="a line of JSON a file")
    analyze.add_argument(
        "--window", type=_window, default=None, metavar="70-140", help="the tempo range to expect"
    )
    analyze.add_argument("--workers", type=int, default=1)
    analyze.set_defaults(run=_analyze)
    bench = commands.add_parser("bench", help="measure accuracy and speed")
    bench.add_argument("--json", action="store_true", help="the same figures for machines")
    bench.add_argument("--parts", nargs="+", choices=BENCH_PARTS, default=BENCH_PARTS, help="only these")
    bench.add_argument("--home", type=Path, default=user_data_path("vinyl") / "demo")
    bench.set_defaults(run=_bench)
    seed = commands.add_parser("seed", help="fill a library with made-up tracks")
    seed.add_argument("--tracks", type=int, required=True)
    seed.add_argument("--home", type=Path, required=True)
    seed.set_defaults(run=_seed)
    schema = commands.add_parser("openapi", help="print the server's OpenAPI document")
    schema.set_defaults(run=_openapi)
    return parser


def _add_crate(commands: Any) -> None:
    crate = commands.add_parser("crate", help="list, show, export and import crates")
    verbs = crate.add_subparsers(required=True, metavar="VERB")
    for verb, text, given in (
        ("list", "print all crates and folders", ()),
        ("show", "print what is in a crate or folder", ("name",)),
        ("export", "write a crate or folder as JSON", ("name", "file")),
        ("import", "make the crate or folder that a file holds", ("file",)),
    ):
        command = verbs.add_parser(verb, help=text)
        if "name" in given:
            command.add_argument("name", help="its name, or its number in the listing")
        if "file" in given:
            command.add_argument("file", type=Path, nargs="?" if verb == "export" else None)
        command.add_argument("--home", type=Path, default=user_data_path("vinyl") / "home")
        command.set_defaults(run=_crate, verb=verb)


def _add_set(commands: Any) -> None:
    planned = commands.add_parser("set", help="list and show sets, propose their order, tell their clearance")
    verbs = planned.add_subparsers(required=True, metavar="VERB")
    for verb, text in (
        ("list", "print all sets"),
        ("show", "print a set with what speaks against it"),
        ("export", "print a set as a file for others"),
        ("order", "print an order that is proposed for it; nothing is changed"),
        ("clearance", "print whether its recording may be published, by what is known of its tracks"),
    ):
        command = verbs.add_parser(verb, help=text)
        if verb != "list":
            command.add_argument("name", help="its name, or its number in the listing")
        if verb == "export":
            command.add_argument("--as", dest="form", choices=FILE_FORMS, default="text")
        if verb == "order":
            command.add_argument(
                "--by", choices=SET_ORDERS, default="all", help="by what; all weighed if not given"
            )
        command.add_argument("--home", type=Path, default=user_data_path("vinyl") / "home")
        command.set_defaults(run=_set, verb=verb)


def _add_log(commands: Any) -> None:
    log = commands.add_parser("log", help="add, list, show and export nights of the Logbook")
    verbs = log.add_subparsers(required=True, metavar="VERB")
    made = {}
    for verb, text in (
        ("add", "take in a file that tells what was played, or lines from standard input (-)"),
        ("list", "print all nights"),
        ("show", "print what was played at a night"),
        ("export", "write a night as text, M3U8, cue sheet or table"),
    ):
        made[verb] = verbs.add_parser(verb, help=text)
        made[verb].add_argument("--home", type=Path, default=user_data_path("vinyl") / "home")
        made[verb].set_defaults(run=_log, verb=verb)
    made["add"].add_argument("file")
    made["add"].add_argument("--date", help="such as 2026-11-25, where the file does not say")
    made["add"].add_argument("--begins", type=_clock, help="such as 21:00")
    made["add"].add_argument("--ends", type=_clock)
    made["add"].add_argument("--kind", default="")
    for verb in ("add", "list"):
        made[verb].add_argument("--venue", default="")
    for verb in ("show", "export"):
        made[verb].add_argument("number", type=int, help="its number in the listing")
    made["export"].add_argument("file", type=Path, nargs="?")
    made["export"].add_argument("--as", dest="form", choices=FILE_FORMS, default="text")
    made["export"].add_argument("--no-times", action="store_true")


# What becomes of later work of the other side (vinyl.core.carrying.merging).
POLICIES = ("leave", "add", "replace")


def _add_convert(commands: Any) -> None:
    command = commands.add_parser("convert", help="carry the library to another program's, or back")
    command.add_argument("--from", dest="source", required=True, help='"library", or a library\'s path')
    command.add_argument("--to", dest="target", required=True, help='"library", or KIND:PATH')
    command.add_argument(
        "--list", dest="lists", action="append", default=[], help="only this list; again for more"
    )
    command.add_argument(
        "--option",
        action="append",
        default=[],
        type=_pair,
        metavar="NAME=ANSWER",
        help="a choice",
    )
    command.add_argument(
        "--path", action="append", default=[], type=_pair, metavar="HERE=THERE", help="a beginning of paths"
    )
    command.add_argument(
        "--theirs", choices=POLICIES, default="leave", help="what the other side made itself"
    )
    command.add_argument("--mirror", action="store_true", help="nothing else stays there")
    command.add_argument(
        "--dry-run", action="store_true", help="say what would become of it, and write nothing"
    )
    command.add_argument("--json", action="store_true", help="for scripts")
    command.add_argument("--home", type=Path, default=user_data_path("vinyl") / "home")
    command.set_defaults(run=_convert)


def _add_stick(commands: Any) -> None:
    command = commands.add_parser("stick", help="plan, pack and check sticks, and bring home what is on them")
    command.add_argument("verb", choices=STICK_VERBS)
    command.add_argument(
        "names", nargs="*", metavar="STICK", help="all that are in the computer, if none is named"
    )
    command.add_argument("--mend", action="store_true", help="with check: pack anew what is damaged")
    command.add_argument(
        "--both",
        choices=BOTH_CHANGED,
        default="ask",
        help="with pull-changes: what holds where both sides changed",
    )
    command.add_argument("--json", action="store_true", help="for scripts")
    command.add_argument("--home", type=Path, default=user_data_path("vinyl") / "home")
    command.set_defaults(run=_stick)


def _stick(options: argparse.Namespace) -> int:
    from vinyl.commands.sticks import stick

    return stick(
        options.home.resolve(), options.verb, options.names, options.json, options.mend, options.both
    )


def _pair(text: str) -> tuple[str, str]:
    name, equals, value = text.partition("=")
    if not equals or not name:
        raise argparse.ArgumentTypeError("write it as one thing = another")
    return name, value


def _convert(options: argparse.Namespace) -> int:
    from vinyl.commands.convert import Wanted, convert

    wanted = Wanted(
        options.source, options.target, tuple(options.lists), dict(options.option), tuple(options.path),
        options.mirror, options.dry_run, options.json, options.theirs,
    )  # fmt: skip
    return convert(options.home.resolve(), wanted)


def _clock(text: str) -> str:
    hour, colon, minute = text.partition(":")
    if not (colon and hour.isdecimal() and minute.isdecimal() and int(hour) < 24 and int(minute) < 60):
        raise argparse.ArgumentTypeError("write a time like 21:00")
    return f"{int(hour):02}:{int(minute):02}"


def _log(options: argparse.Namespace) -> int:
    from vinyl.commands import log

    home = options.home.resolve()
    if options.verb == "list":
        return log.list_nights(home, options.venue or None)
    if options.verb == "show":
        return log.show_night(home, options.number)
    if options.verb == "export":
        return log.export(home, options.number, options.form, options.file, not options.no_times)
    given = log.given_of(options.date, options.begins, options.ends, options.kind)
    return log.add(home, options.file, given, options.venue)


def _twins(options: argparse.Namespace) -> int:
    from vinyl.commands.twins import print_twins

    return print_twins(options.home.resolve(), options.json)


def _find(options: argparse.Namespace) -> int:
    from vinyl.commands.finding import find_tracks

    return find_tracks(options.home.resolve(), " ".join(options.words))


def _crate(options: argparse.Namespace) -> int:
    from vinyl.commands import crates

    home = options.home.resolve()
    if options.verb == "list":
        return crates.list_crates(home)
    if options.verb == "show":
        return crates.show_crate(home, options.name)
    if options.verb == "export":
        return crates.export_crate(home, options.name, options.file)
    return crates.import_crate(home, options.file)


def _set(options: argparse.Namespace) -> int:
    from vinyl.commands import sets

    home = options.home.resolve()
    if options.verb == "list":
        return sets.list_sets(home)
    if options.verb == "show":
        return sets.show_set(home, options.name)
    if options.verb == "export":
        return sets.export_set(home, options.name, options.form)
    if options.verb == "clearance":
        return sets.show_clearance(home, options.name)
    return sets.propose_order(home, options.name, options.by)


def _demo(options: argparse.Namespace) -> int:
    from vinyl.library.lock import lock_home

    home = options.home.resolve()
    _check_port(options.port)
    lock = lock_home(home)
    _fill_logbook(home, rooms=not options.bare)
    music = home / "demo" / "music"
    music.mkdir(parents=True, exist_ok=True)
    if options.bare:
        _make_music(home / "demo")
    # What the demo carries to other programs lies beside its music, wherever its home is.
    options.allow = [*options.allow, music.parent]
    return _serve(options, lock, (music,), make_demo=not options.bare)


def _make_music(folder: Path) -> None:
    """Make all demo music now, and a friend's library of it."""
    from vinyl.demo.collection import make_collection
    from vinyl.demo.friend import make_friends_library

    began = time.monotonic()
    make_collection(
        folder, lambda done, total: print(f"\rMaking demo music: {done} of {total}", end="", flush=True)
    )
    make_friends_library(folder)
    if time.monotonic() - began > 1:
        print(f"\rThe demo music was made in {time.monotonic() - began:.0f} s.")


def _fill_logbook(home: Path, rooms: bool) -> None:
    """Nights for a demo that is begun, and crates, tags and sticks if wished; in one that was used nothing
    comes back.
    """
    from datetime import date

    from vinyl.demo.nights import has_nights, make_nights
    from vinyl.demo.rooms import prepare_rooms
    from vinyl.library.database import Database

    database = Database.prepared(home / "library.db")
    if has_nights(database):
        return
    if rooms:
        prepare_rooms(database, home)
    make_nights(database, date.today())


def _start(options: argparse.Namespace) -> int:
    from vinyl.library.lock import lock_home

    _check_port(options.port)
    return _serve(options, lock_home(options.home.resolve()), ())


def _serve(
    options: argparse.Namespace, lock: TextIO, offered: tuple[Path, ...], make_demo: bool = False
) -> int:
    """Serve a home that is locked, until it is told to stop."""
    import uvicorn

    from vinyl.api.app import create_app
    from vinyl.library.lock import key_of, note_address
    from vinyl.operations.services import Settings

    home = options.home.resolve()
    settings = Settings(
        home, WEB, tuple(options.allow), tuple(path.resolve() for path in offered), options.workers,
        options.nice,
    )  # fmt: skip
    app = create_app(settings)
    if make_demo:
        app.state.services.demo.begin_once()
    # Workers begin where the server stands: not in a folder that may be taken away under it.
    os.chdir(home)
    address = f"http://127.0.0.1:{options.port}"
    note_address(lock, address)
    page = f"{address}/?key={key_of(home)}"
    print(f"Vinyl is at {page} (library in {home})", flush=True)
    if not options.no_open and (os.environ.get("DISPLAY") or sys.platform == "darwin"):
        threading.Thread(target=_open_when_ready, args=(page,), daemon=True).start()
    uvicorn.run(app, host="127.0.0.1", port=options.port, log_level="warning", timeout_graceful_shutdown=3)
    lock.close()
    return 0


def _check_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except (OSError, OverflowError) as error:
            raise VinylError(
                f"Port {port} cannot be used ({error}). Is Vinyl running "
                "there already? Else start with --port N."
            ) from error


def _open_when_ready(page: str) -> None:
    for _ in range(50):
        try:
            urllib.request.urlopen(page, timeout=1).close()
        except OSError:
            time.sleep(0.1)
        else:
            webbrowser.open(page)
            return


def _import(options: argparse.Namespace) -> int:
    from vinyl.commands.imports import bring_in

    return bring_in(options.home.resolve(), [path.resolve() for path in options.paths])


def _analyze(options: argparse.Namespace) -> int:
    failed = False
    for line in _lines(options.files, options.window, options.workers):
        failed = failed or "error" in line
        print(json.dumps(line, ensure_ascii=False) if options.json else _plain(line), flush=True)
    return 1 if failed else 0


def _lines(files: list[str], window: tuple[float, float] | None, workers: int) -> Iterator[dict[str, object]]:
    from vinyl.jobs.report import analysis_line

    if min(workers, len(files)) <= 1:
        yield from (analysis_line(file, window) for file in files)
        return
    with ProcessPoolExecutor(workers, mp_context=get_context("spawn")) as pool:
        futures = [pool.submit(analysis_line, file, window) for file in files]
        for file, future in zip(files, futures, strict=True):
            try:
                yield future.result()
            except BrokenProcessPool:  # by this file or by another: each is tried again by itself
                yield _line_alone(file, window)


def _line_alone(file: str, window: tuple[float, float] | None) -> dict[str, object]:
    from vinyl.jobs.report import analysis_line

    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        try:
            return pool.submit(analysis_line, file, window).result()
        except BrokenProcessPool:
            return {"path": file, "error": "The analysis of this file broke down."}


def _plain(line: dict[str, object]) -> str:
    if "error" in line:
        return f"{line['path']}: {line['error']}"
    bpm = f"{line['bpm']:.2f} bpm, {line['tempo']}" if line["bpm"] else "no beat"
    return f"{line['path']}: {bpm}; {line['key'] or 'no key'}; {line['lufs']} LUFS"


def _window(text: str) -> tuple[float, float]:
    low, dash, high = text.partition("-")
    try:
        window = float(low), float(high)
    except ValueError:
        raise argparse.ArgumentTypeError("write a tempo window like 70-140") from None
    if not dash or not 20 <= window[0] < window[1] <= 400:
        raise argparse.ArgumentTypeError("write a tempo window like 70-140, the slower tempo first")
    return window


def _bench(options: argparse.Namespace) -> int:
    from vinyl.bench.run import as_table, run_bench
    from vinyl.demo.collection import make_collection

    demo = options.home / "demo"
    if "demo" in options.parts:
        make_collection(demo)
    figures = run_bench(demo, tuple(options.parts))
    print(json.dumps(figures, indent=1) if options.json else as_table(figures))
    return 0


def _seed(options: argparse.Namespace) -> int:
    from vinyl.demo.seed import seed_library
    from vinyl.library.database import Database
    from vinyl.library.lock import lock_home

    home = options.home.resolve()
    with lock_home(home):
        seed_library(Database.prepared(home / "library.db"), options.tracks)
    print(f"{options.tracks} made-up tracks are in {options.home}")
    return 0


def _openapi(options: argparse.Namespace) -> int:
    import tempfile

    from vinyl.api.app import create_app
    from vinyl.operations.services import Settings

    with tempfile.TemporaryDirectory() as home:
        print(json.dumps(create_app(Settings(Path(home), WEB)).openapi(), indent=1))
    return 0
