"""``./vinyl log``: nights added, listed, shown and exported from the command line."""

from __future__ import annotations

import io
import sys
from pathlib import Path

import pytest

from tests.library.making import new_track
from vinyl.cli import main
from vinyl.exchange.lists import read_playlist
from vinyl.library.database import Database


@pytest.fixture
def home(tmp_path: Path) -> Path:
    """A library with two tracks."""
    with Database.prepared(tmp_path / "library.db").write() as connection:
        for name in ("Sluice", "Weir"):
            new_track(connection, name)
    return tmp_path


def test_a_night_is_added_shown_and_goes_out(
    home: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    def run(*arguments: str) -> tuple[int, str]:
        code = main(["log", *arguments, "--home", str(home)])
        return code, capsys.readouterr().out

    monkeypatch.setattr(sys, "stdin", io.StringIO("21:00 Kelp Union - Sluice\n21:06 Weir\n21:12 Bollard\n"))
    said = ("add", "-", "--date", "2026-11-20", "--begins", "21:00", "--venue", "The Slipway")
    assert run(*said) == (0, "1: 3 plays\n")
    assert run("list", "--venue", "the slipway")[1].split() == (
        ["1", "The", "Slipway,", "Fri", "20", "Nov", "2026", "(a", "gig,", "3", "tracks)"]
    )
    assert run("show", "1")[1].splitlines()[1:] == [
        "21:00  Kelp Union - Sluice", "21:06  Kelp Union - Weir", "21:12  Bollard",
    ]  # fmt: skip
    sheet = home / "night.cue"
    assert run("export", "1", str(sheet), "--as", "cue") == (0, "")
    assert [mark.start_s for mark in read_playlist(sheet).sheets[0].marks] == [0.0, 360.0, 720.0]
    # The same night once more, out of the file.
    assert run("add", str(sheet), "--date", "2026-11-20", "--begins", "21:00") == (
        0, "1: was in the Logbook already; 3 plays are the same, 0 were added\n",
    )  # fmt: skip
    assert run("export", "1", "--no-times")[1].splitlines()[2] == "Kelp Union – Sluice"


def test_what_cannot_be_is_said(home: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for arguments, words in (
        (("list", "--venue", "Nowhere"), "There is no venue called “Nowhere”"),
        (("show", "7"), "no longer in the Logbook"),
        (("add", str(home / "none.m3u8")), "There is nothing at"),
        (("add", "-", "--date", "yesterday"), "is no date"),
    ):
        assert main(["log", *arguments, "--home", str(home)]) == 1
        assert words in capsys.readouterr().err
