"""``./vinyl convert``: from the library to others, straight through, and as a document."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from tests.patience import wait_for
from tests.running import Server
from vinyl.cli import main
from vinyl.core.carrying.card import Card
from vinyl.core.cues.cue import Cue
from vinyl.demo.seed import seed_library
from vinyl.exchange.libraries.reedbank import write_reedbank
from vinyl.library import crates, cues
from vinyl.library.database import Database
from vinyl.standin_libraries import reedbank, saltmarsh

COUNT = 40


@pytest.fixture(scope="module")
def home(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    folder = tmp_path_factory.mktemp("convert")
    database = Database.prepared(folder / "home" / "library.db")
    seed_library(database, COUNT)
    with database.write() as connection:
        crate = crates.make_crate(connection, "Only these")
        crates.add_tracks(connection, crate, [1, 2, 3])
        for number in range(12):
            cues.add_cue(connection, 1, Cue(5.0 + number, label=f"c{number}"))
    yield folder / "home"


def _run(home: Path, *given: object) -> int:
    return main(["convert", "--home", str(home), *map(str, given)])


def _told(capsys: pytest.CaptureFixture[str]) -> dict[str, Any]:
    return dict(json.loads(capsys.readouterr().out))


def test_there_and_straight_on_by_scripts(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    to = f"reedbank:{tmp_path}"
    paths = [
        row[0] for row in Database.prepared(home / "library.db").read().execute("SELECT path FROM track")
    ]
    root = os.path.commonpath(paths)
    assert _run(home, "--from", "library", "--to", to, "--list", "Only these", "--dry-run", "--json") == 0
    counts = {(each["kind"], each["fate"]): each["count"] for each in _told(capsys)["ledger"]["counts"]}
    assert counts["cues", "left here"] >= 4 and not list(tmp_path.iterdir())
    assert _run(home, "--from", "library", "--to", to, "--path", f"{root}=D:/M", "--json") == 0
    report = _told(capsys)["report"]
    assert report["equal"] == report["values"] and report["tracks"] == COUNT
    document = Path(report["place"])
    assert all(each["path"].startswith("D:/M/") for each in reedbank.tracks(document))
    assert _run(home, "--from", document, "--to", f"saltmarsh:{tmp_path}") == 0
    assert "values were read back as promised" in capsys.readouterr().out
    assert len(list(saltmarsh.tracks(tmp_path / "vinyl.saltmarsh.db"))) == COUNT
    assert _run(home, "--from", document, "--to", "library", "--dry-run", "--path", f"{root}=D:/M") == 0
    assert f"{COUNT} here" in capsys.readouterr().out


def test_an_archive_makes_an_empty_home_again(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    archive = tmp_path / "all.vinyl.json"
    assert _run(home, "--from", "library", "--to", archive) == 0
    assert _run(tmp_path / "new", "--from", archive, "--to", "library") == 0
    assert f"{COUNT} tracks are in the library now" in capsys.readouterr().out
    assert _run(home, "--from", archive, "--to", "library", "--dry-run", "--json") == 0
    review = _told(capsys)["review"]
    assert review["states"] == {"here": COUNT} and review["kinds"] == []


def test_what_cannot_be_is_said_with_an_exit_code(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    for given, says in (
        (("--from", "library", "--to", f"reedbank:{tmp_path}", "--list", "No such"), "no list called"),
        (("--from", "library", "--to", tmp_path / "x.txt"), "tells no kind of library"),
        (("--from", tmp_path / "gone.saltmarsh.db", "--to", "library"), "no Saltmarsh library"),
        (("--from", "library", "--to", f"reedbank:{tmp_path}", "--option", "colours=neon"), "colours"),
    ):
        assert _run(home, *given) != 0
        assert says in capsys.readouterr().err


def test_two_paths_that_differ_in_case_are_one_where_the_other_system_knows_none(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    database = Database.prepared(home / "library.db")
    with database.write() as connection:
        row = connection.execute("SELECT path FROM track WHERE id = 5").fetchone()
        connection.execute("UPDATE track SET path = ? WHERE id = 6", (row["path"].swapcase(),))
    given = ("--from", "library", "--to", f"reedbank:{tmp_path}", "--dry-run", "--json")
    for paths, left in (((), None), (("--path", "/=D:/", "--path", "/x=D:/"), 1)):
        assert _run(home, *given, *paths) == 0
        ledger = _told(capsys)["ledger"]
        counts = {(each["kind"], each["fate"]): each["count"] for each in ledger["counts"]}
        assert counts.get(("files", "left here")) == left


def test_a_server_that_is_killed_while_it_writes_leaves_the_old_library_and_goes_on(tmp_path: Path) -> None:
    home, out = tmp_path / "home", tmp_path / "out"
    out.mkdir()
    seed_library(Database.prepared(home / "library.db"), 3000)
    server = Server(home, "--allow", str(out)).start()
    try:
        order = {"target": "reedbank", "place": str(out)}
        document = out / "vinyl.reedbank.xml"
        write_reedbank(document, [("1", Card("/old.mp3"))], ())
        old = document.read_bytes()
        job = server.send("POST", "/api/exchange/carryings", order)["id"]
        part = out / f".{document.name}.part"
        wait_for(lambda: part.exists() and part.stat().st_size > 50_000, "half of a document")
        server.kill()
        assert document.read_bytes() == old
        server.start()
        wait_for(lambda: server.get(f"/api/jobs/{job}")["state"] == "done", "its end")
        report = server.get(f"/api/exchange/carryings/{job}")
        assert report["equal"] == report["values"] and len(list(reedbank.tracks(document))) == 3001
        assert Path(report["kept"]).read_bytes() == old and not part.exists()
    finally:
        server.stop()


def test_a_dry_run_of_a_mirror_says_what_would_vanish(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    there = ("--from", "library", "--to", f"reedbank:{tmp_path}")
    assert _run(home, *there) == 0
    (document,) = tmp_path.glob("*.xml")
    before = document.read_bytes()
    capsys.readouterr()
    assert _run(home, *there, "--list", "Only these", "--mirror", "--dry-run") == 0
    lines = capsys.readouterr().out.splitlines()
    at = next(place for place, line in enumerate(lines) if "would vanish there" in line)
    assert lines[at].endswith(f"tracks {COUNT - 3}") and len(lines) > at + 10
    assert "/media/seeded/40." in "".join(lines[at:]) and "/media/seeded/1." not in "".join(lines[at:])
    assert document.read_bytes() == before, "nothing is written"
