"""The demo collection, and how well the analysis hears it: the figures Vinyl promises."""

from __future__ import annotations

import json
import subprocess
import sys
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from vinyl.cli import main
from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from
from vinyl.core.tonal.key import parse_key
from vinyl.demo.collection import VERSION, make_collection
from vinyl.demo.scenario import SONGS
from vinyl.demo.score import PHRASE_BARS, write_score
from vinyl.library.lock import lock_home
from vinyl.media.tags import read_tags

FIELDS = {
    "path",
    "duration",
    "bpm",
    "tempo",
    "anchors",
    "beats_per_bar",
    "beats",
    "downbeats",
    "key",
    "key_confidence",
    "second_key",
    "second_key_from",
    "tuning_cents",
    "lufs",
    "loudness_range",
    "true_peak_db",
    "energy",
    "energy_reason",
    "sections",
    "phrases",
    "cues",
    "doubt",
    "doubt_reasons",
    "other_bpm",
    "quality",
    "analysis_seconds",
}


@pytest.fixture(scope="module")
def truths(demo: Path) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = json.loads((demo / "truth.json").read_text())
    return found


@pytest.fixture(scope="module")
def heard(demo: Path, truths: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """What ``vinyl analyze --json`` says of every track, and that it ends well."""
    paths = [str(demo / "music" / truth["path"]) for truth in truths]
    command = [sys.executable, "-m", "vinyl", "analyze", "--json", "--workers", "2", *paths]
    run = subprocess.run(command, capture_output=True, text=True, check=True, timeout=280)
    return [json.loads(line) for line in run.stdout.splitlines()]


def test_the_collection_is_what_a_download_folder_is_like(demo: Path, truths: list[dict[str, Any]]) -> None:
    assert len(SONGS) >= 30 and len(truths) == len(SONGS) + 1
    assert {Path(t["path"]).suffix for t in truths} == {".wav", ".flac", ".mp3", ".m4a", ".opus", ".aiff"}
    assert {t["kind"] for t in truths} == {"steady", "stepped", "elastic"}
    assert {t["beats_per_bar"] for t in truths} == {3, 4}
    assert all(150 <= t["duration_s"] <= 310 for t in truths)
    assert min(t["bpm"] for t in truths) == 84 and max(t["bpm"] for t in truths) == 174
    tags = [read_tags(demo / "music" / t["path"]) for t in truths]
    assert sum(not t.title for t in tags) == 1 and sum(bool(t.title and not t.artist) for t in tags) == 2
    assert any(not t.title.isascii() for t in tags) and sum(t.picture is not None for t in tags) > 25
    assert make_collection(demo) == demo / "music", "made once, used again"
    assert (demo / "complete").read_text() == VERSION


@pytest.mark.parametrize("song", [SONGS[0], SONGS[8], SONGS[23], SONGS[26]], ids=lambda song: song.style)
def test_a_song_is_the_same_each_time_and_built_of_phrases(song: Any) -> None:
    score, again = write_score(song), write_score(song)
    assert score == again
    assert all(
        section.bars % PHRASE_BARS == 0 and section.first_bar % PHRASE_BARS == 0 for section in score.sections
    )
    labels = [section.label for section in score.sections]
    assert labels[-6:] == ["intro", "main", "break", "build", "main", "outro"]
    drums = Counter(note.instrument for note in score.notes if note.bus == "drums")
    assert drums["kick"] > 100 and len(score.notes) > 1000


def test_analyze_prints_the_fields_it_promises(heard: list[dict[str, Any]]) -> None:
    for line in heard:
        assert set(line) == FIELDS
        assert line["tempo"] != "steady" or len(line["beats"]) == pytest.approx(
            line["duration"] * line["bpm"] / 60, abs=3
        )
        assert set(line["downbeats"]) <= set(line["beats"])
        assert 0 <= line["doubt"]["grid"] <= 1 and 0 <= line["doubt"]["key"] <= 1


def test_steady_tracks_get_their_grid(truths: list[dict[str, Any]], heard: list[dict[str, Any]]) -> None:
    """Within 0.05 bpm and every beat within 15 ms on at least 90%; bar starts right on as many."""
    grids, bars = [], []
    for truth, line in zip(truths, heard, strict=True):
        if truth["kind"] != "steady":
            continue
        tempo_map = TempoMap(anchors_from(line["anchors"]), line["beats_per_bar"])
        beats = np.array(truth["beats"])
        off = np.abs(tempo_map.time_at(np.rint(tempo_map.beat_at(beats))) - beats).max()
        grids.append(abs(line["bpm"] - truth["bpm"]) <= 0.05 and off <= 0.015)
        first = float(tempo_map.beat_at(truth["anchors"][0]["time"])) / line["beats_per_bar"]
        bars.append(line["beats_per_bar"] == truth["beats_per_bar"] and abs(first - round(first)) < 0.05)
    assert np.mean(grids) >= 0.9
    assert np.mean(bars) >= 0.9


def test_keys_and_the_course_of_the_tempo_are_found(
    truths: list[dict[str, Any]], heard: list[dict[str, Any]]
) -> None:
    pairs = list(zip(truths, heard, strict=True))
    exact = [
        line["key"] is not None and parse_key(line["key"]) == parse_key(truth["key"]) for truth, line in pairs
    ]
    assert np.mean(exact) >= 0.7
    assert [line["tempo"] for line in heard] == [truth["kind"] for truth in truths]
    for truth, line in pairs:
        if truth["kind"] == "steady":
            continue
        tempo_map, beats = (
            TempoMap(anchors_from(line["anchors"]), line["beats_per_bar"]),
            np.array(truth["beats"]),
        )
        off = np.abs(tempo_map.time_at(np.rint(tempo_map.beat_at(beats))) - beats)
        assert np.mean(off <= 0.02) >= 0.95, f"{truth['path']}: the grid leaves the beats"


def test_main_parts_and_breaks_are_found(truths: list[dict[str, Any]], heard: list[dict[str, Any]]) -> None:
    found = []
    for truth, line in zip(truths, heard, strict=True):
        bar_s = 60.0 / truth["bpm"] * truth["beats_per_bar"]
        for label in ("main", "break"):
            start = next(start for start, name in truth["sections"] if name == label)
            found.append(
                any(
                    abs(s["start"] - start) < 1.05 * bar_s and s["label"].startswith(label)
                    for s in line["sections"]
                )
            )
    assert np.mean(found) >= 0.8


def test_analyze_goes_on_after_a_broken_file(demo: Path, tmp_path: Path) -> None:
    (tmp_path / "nothing.mp3").write_bytes(b"")
    whole = next((demo / "music").rglob("Bilge Echo.wav"))
    command = [
        sys.executable,
        "-m",
        "vinyl",
        "analyze",
        "--json",
        "--window",
        "150-180",
        str(tmp_path / "nothing.mp3"),
        str(whole),
    ]
    run = subprocess.run(command, capture_output=True, text=True, timeout=120)
    broken, fine = (json.loads(line) for line in run.stdout.splitlines())
    assert run.returncode == 1
    assert set(broken) == {"path", "error"} and "empty" in broken["error"]
    assert fine["bpm"] == pytest.approx(168, abs=0.1), "the octave lies in the window that was asked for"
    wrong = subprocess.run(
        [sys.executable, "-m", "vinyl", "analyze", "--window", "180", str(whole)],
        capture_output=True,
        text=True,
    )
    assert wrong.returncode == 2 and "like 70-140" in wrong.stderr


def test_the_demo_touches_nothing_of_a_home_that_is_in_use(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    home = tmp_path / "home"
    with lock_home(home):
        before = sorted(path.name for path in home.iterdir())
        assert main(["demo", "--home", str(home), "--no-open"]) == 1
        assert sorted(path.name for path in home.iterdir()) == before
    assert "already running on" in capsys.readouterr().err
