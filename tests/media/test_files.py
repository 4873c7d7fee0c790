"""Decoding, probing, tags, folders and safe writing."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest

from tests.signals import RATE_HZ, click_track, encode_with_head
from vinyl.media.decode import decode
from vinyl.media.encode import ENCODINGS, convert, encode
from vinyl.media.errors import BrokenAudioError, NotAudioError
from vinyl.media.files import AllowedRoots, FolderError, replacing, walk_files
from vinyl.media.glance import glance, with_parsed
from vinyl.media.listening import FRAME_BYTES, ListeningCopies
from vinyl.media.probe import probe
from vinyl.media.tags import Tags, parse, read_tags, write_tags

CLICKS = np.arange(0.25, 19.0, 0.5)


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """A click track in every format."""
    folder = tmp_path_factory.mktemp("clicks")
    samples = click_track(CLICKS, 20.0, hz=3000)
    paths = {form: folder / f"clicks{encoding.suffix}" for form, encoding in ENCODINGS.items()}
    for form, path in paths.items():
        encode(samples, RATE_HZ, path, form)
    return paths


@pytest.mark.parametrize("form", ENCODINGS)
def test_time_zero_is_the_first_sample_after_padding(files: dict[str, Path], form: str) -> None:
    mono = decode(files[form]).samples[0]
    expected = click_track(CLICKS, 20.0, hz=3000)[0]
    size = min(len(mono), len(expected))
    correlation = np.fft.irfft(np.fft.rfft(mono[:size]) * np.conj(np.fft.rfft(expected[:size])))
    lag = int(np.argmax(correlation))
    assert min(lag, size - lag) <= 2, f"{form} is {lag} samples late"
    assert abs(len(mono) / RATE_HZ - 20.0) < 0.03


@pytest.mark.parametrize(
    ("form", "padding"), [("mp3", 1105), ("m4a", 1024), ("opus", 312), ("flac", 0), ("wav", 0)]
)
def test_probe_tells_format_length_and_padding(files: dict[str, Path], form: str, padding: int) -> None:
    facts = probe(files[form])
    assert facts.duration_s == pytest.approx(20.0, abs=0.05)
    assert facts.trimmed_samples == padding
    assert facts.channels == 2


@pytest.mark.parametrize("form", list(ENCODINGS))
def test_tags_come_back_and_name_the_same_sound(files: dict[str, Path], form: str, tmp_path: Path) -> None:
    path = tmp_path / files[form].name
    path.write_bytes(files[form].read_bytes())
    sleeve = b"\xff\xd8\xff\xe0 not a real picture \xff\xd9"
    tags = Tags(
        "灯台の朝",
        "Ånd & Søn",
        "Хвилі",
        "Dub",
        "Slipway",
        "loud, fast",
        "A minor",
        2024,
        128.0,
        4,
        picture=sleeve,
    )
    write_tags(path, tags)
    assert read_tags(path) == tags
    assert probe(path).audio_hash == probe(files[form]).audio_hash


@pytest.mark.parametrize("form", ["mp3", "flac", "m4a", "wav", "aiff"])
def test_a_glance_tells_what_reading_all_tells(files: dict[str, Path], form: str, tmp_path: Path) -> None:
    path = tmp_path / files[form].name
    path.write_bytes(files[form].read_bytes())
    quick, whole = glance(path, parse(path)), probe(path)
    assert quick is not None and quick.sampled_hash
    same = ("codec", "rate_hz", "channels", "trimmed_samples")
    assert [getattr(quick, name) for name in same] == [getattr(whole, name) for name in same]
    assert quick.duration_s == pytest.approx(whole.duration_s, abs=0.05)
    more = with_parsed(quick, parse(path))
    assert (more.depth_bits, more.variable_rate) == (None if form in ("mp3", "m4a") else 16, False)
    assert (quick.padding_samples > 0) == (form == "mp3")
    assert quick.bit_rate == pytest.approx(whole.bit_rate, rel=0.05)
    write_tags(path, Tags("Other words " * 200, picture=b"\xff\xd8" + bytes(30_000)))
    assert glance(path, parse(path)).sampled_hash == quick.sampled_hash  # type: ignore[union-attr]
    data = files[form].read_bytes()
    path.write_bytes(data[: int(len(data) * 0.7)])
    assert glance(path, parse(path)) is None, "a file that was cut off is left to the slow look"
    if form in ("mp3", "flac"):
        path.write_bytes(data[: len(data) // 2] + bytes(len(data) // 2))
        assert glance(path, parse(path)) is None, "so is one whose second half was never written"


def test_what_is_no_audio_or_broken_is_told_apart(files: dict[str, Path], tmp_path: Path) -> None:
    whole = files["mp3"].read_bytes()
    cases: list[tuple[bytes, type[Exception], str]] = [
        (b"", NotAudioError, "empty"),
        (b"just some words\n" * 40, NotAudioError, "no audio"),
        (whole[: len(whole) // 3], BrokenAudioError, "cut off"),
        (files["m4a"].read_bytes()[:20_000], BrokenAudioError, "incomplete"),
        (files["wav"].read_bytes()[:200_000], BrokenAudioError, "cut off"),
        (b"ID3\x04\x00" + bytes(3000), BrokenAudioError, "incomplete"),
    ]
    for number, (data, kind, words) in enumerate(cases):
        path = tmp_path / f"{number}.mp3"
        path.write_bytes(data)
        with pytest.raises(kind, match=words):
            probe(path)


@pytest.mark.parametrize(("name", "head"), [("bare.mp3", {"write_xing": "0"}), ("bare.aac", {})])
def test_a_length_that_no_head_tells_is_read_and_not_guessed(
    tmp_path: Path, name: str, head: dict[str, str]
) -> None:
    """Silence first takes few bits: by them the rest of the file would last five times as long."""
    sound = np.concatenate(
        [np.zeros((2, 441_000), np.float32), click_track(CLICKS[CLICKS < 9.5], 10.0)], axis=1
    )
    encode_with_head(tmp_path / name, sound, **head)
    assert glance(tmp_path / name, parse(tmp_path / name)) is None
    assert probe(tmp_path / name).duration_s == pytest.approx(20.0, abs=0.1)


def test_bit_errors_do_not_stop_decoding(files: dict[str, Path], tmp_path: Path) -> None:
    data = bytearray(files["mp3"].read_bytes())
    for at in range(20_000, len(data), 9_000):
        data[at : at + 40] = bytes(40)
    path = tmp_path / "scratched.mp3"
    path.write_bytes(data)
    assert decode(path).duration_s == pytest.approx(20.0, abs=1.5)


def test_a_listening_copy_is_exact_at_any_frame(files: dict[str, Path], tmp_path: Path) -> None:
    copies = ListeningCopies(tmp_path)
    whole = np.frombuffer(copies.read("x", files["opus"], 0, 21 * RATE_HZ), np.int16).reshape(-1, 2)
    for first in (0, 1, 12345, 18 * RATE_HZ):
        piece = np.frombuffer(copies.read("x", files["opus"], first, 1000), np.int16).reshape(-1, 2)
        assert np.array_equal(piece, whole[first : first + 1000])
    assert copies.read("x", files["opus"], 40 * RATE_HZ, 10) == b""
    assert (tmp_path / "x.pcm").stat().st_size == len(whole) * FRAME_BYTES
    onsets = np.flatnonzero(np.abs(whole[:, 0].astype(int)) > 9000)
    assert abs(onsets[0] / RATE_HZ - CLICKS[0]) < 0.002


def test_many_readers_get_a_copy_while_it_is_made(files: dict[str, Path], tmp_path: Path) -> None:
    for attempt in range(5):
        copies = ListeningCopies(tmp_path / str(attempt))
        with ThreadPoolExecutor(8) as pool:
            starts = [(19 - i % 20) * RATE_HZ for i in range(60)]
            sizes = list(pool.map(lambda first: len(copies.read("x", files["wav"], first, 1000)), starts))  # noqa: B023
        assert sizes == [1000 * FRAME_BYTES] * 60


def test_conversion_keeps_time(files: dict[str, Path], tmp_path: Path) -> None:
    convert(files["opus"], tmp_path / "x.flac", "flac")
    onsets = np.flatnonzero(np.abs(decode(tmp_path / "x.flac").samples[0]) > 0.3)
    assert abs(onsets[0] / RATE_HZ - CLICKS[0]) < 0.002


def test_only_allowed_folders_are_read(tmp_path: Path) -> None:
    inside, outside = tmp_path / "music", tmp_path / "secret"
    inside.mkdir()
    outside.mkdir()
    (inside / "link").symlink_to(outside)
    roots = AllowedRoots((inside,))
    assert roots.check_folder(inside) == inside
    for path in (outside, inside / ".." / "secret", inside / "link", Path("/etc")):
        with pytest.raises(FolderError, match="outside"):
            roots.check(path)
    with pytest.raises(FolderError, match="no folder"):
        roots.check_folder(inside / "nowhere")


def test_walking_passes_over_hidden_files_and_odd_names(tmp_path: Path) -> None:
    for name in ("b/Name 1.mp3", "b/Name.mp3", ".hidden/x.mp3", "b/._Name.mp3", "a.wav"):
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).touch()
    os.close(os.open(os.fsencode(tmp_path) + b"/bad-\xff.mp3", os.O_CREAT))
    assert [path.relative_to(tmp_path).as_posix() for path in walk_files(tmp_path)] == [
        "a.wav",
        "b/Name.mp3",
        "b/Name 1.mp3",
    ]


def test_a_failed_write_leaves_the_old_file(tmp_path: Path) -> None:
    target = tmp_path / "index.json"
    target.write_text("old")
    with pytest.raises(RuntimeError), replacing(target) as part:
        part.write_text("half")
        raise RuntimeError
    assert target.read_text() == "old"
    assert [path.name for path in tmp_path.iterdir()] == ["index.json"]


def test_what_is_written_follows_no_link_that_was_laid_in_its_way(tmp_path: Path) -> None:
    private = tmp_path / "private"
    private.write_text("private")
    (tmp_path / ".index.json.part").symlink_to(private)
    with replacing(tmp_path / "index.json") as part:
        part.write_text("new")
    assert (private.read_text(), (tmp_path / "index.json").read_text()) == ("private", "new")


def test_analyze_prints_in_order_and_ends_with_one_if_a_file_failed(
    files: dict[str, Path], tmp_path: Path
) -> None:
    paths = [str(files["wav"]), str(tmp_path / "gone.mp3"), str(files["flac"])]
    runs = [
        subprocess.run(
            [sys.executable, "-m", "vinyl", "analyze", "--json", "--workers", workers, *paths],
            capture_output=True,
            text=True,
        )
        for workers in "12"
    ]
    lines = [[json.loads(line) for line in run.stdout.splitlines()] for run in runs]
    assert [run.returncode for run in runs] == [1, 1] and not any("Traceback" in run.stderr for run in runs)
    for one, two, path in zip(*lines, paths, strict=True):
        assert {**one, "analysis_seconds": 0} == {**two, "analysis_seconds": 0} and one["path"] == path
    assert lines[0][1]["error"] == "There is no file at this path."
