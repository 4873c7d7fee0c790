"""A folder of hard files, of every container and many mishaps: each ends in the report."""

from __future__ import annotations

import logging
import os
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from mutagen.apev2 import APEv2
from mutagen.id3 import APIC, COMM, ID3, TBPM, TIT2, TKEY, TPE1

from tests.jobs.test_background import House
from tests.signals import RATE_HZ, drum_loop
from vinyl.library import imports
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.tags import Tags, write_tags

HERE, REFUSED = {"added", "already here"}, {"broken", "not audio"}
# What files whose names begin so may end as.
EXPECTED = {
    "plain": HERE,
    "renamed": HERE,
    "tagged": HERE,
    "liar": HERE,
    "picture": HERE,
    "cut": HERE | REFUSED,
    "spoilt": HERE | REFUSED,
    "empty": {"not audio"},
    "noise": REFUSED,
    "text": {"not audio"},
    "pipe": {"not audio"},
    "link": {"broken", "not audio"},
}
TITLES = (
    "x" * 1000, "שלום עולם", "مرحبا", "e\u0301\u0302\u0303" * 40, "a\x01b\x07c\x1b[31m", "\u202eevil\u202c",
    "🌊" * 50,
    "'; DROP TABLE track; --", "<img src=x onerror=alert(1)>", "../../../../etc/passwd", "\ufeffbom", "NULL",
    "\n\t\r",
)  # fmt: skip
SLOWEST_S = 5.0
# In these formats each odd title belongs to a track, not to a copy of one.
SOUNDS_OF_THEIR_OWN = ("mp3", "flac", "m4a")


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.services.start()
    yield made
    made.services.stop()


def fill(folder: Path, outside: Path) -> int:
    """Make the collection; returns how many files it has."""
    whole = {}
    for number, (form, kind) in enumerate(ENCODINGS.items()):
        path = folder / f"plain {form}{kind.suffix}"
        encode(drum_loop(118.0 + number, 0.25, 3.0, seed=number), RATE_HZ, path, form)
        whole[form] = path.read_bytes()
    random = np.random.default_rng(3)
    for form, data in whole.items():
        suffix = ENCODINGS[form].suffix
        for other in {kind.suffix for kind in ENCODINGS.values()} - {suffix}:
            (folder / f"renamed {form}{other}").write_bytes(data)
        for keep in (0.02, 0.3, 0.6, 0.97):
            (folder / f"cut {form} {keep}{suffix}").write_bytes(data[: int(len(data) * keep)])
        for number in range(4):
            spoilt = bytearray(data)
            for at in random.integers(0, len(data), 40 * (number + 1)):
                spoilt[at] = random.integers(256)
            (folder / f"spoilt {form} {number}{suffix}").write_bytes(spoilt)
        (folder / f"empty {form}{suffix}").write_bytes(b"")
        (folder / f"noise {form}{suffix}").write_bytes(data[:4] + random.bytes(9000))
        (folder / f"text {form}{suffix}").write_text("a list of songs\n" * 30)
        for number, title in enumerate(TITLES):
            path = folder / f"tagged {form} {number}{suffix}"
            if form in SOUNDS_OF_THEIR_OWN:
                encode(drum_loop(150.0 + number, 0.25, 2.5, seed=number), RATE_HZ, path, form)
            else:
                path.write_bytes(data)
            write_tags(path, Tags(title, title[:60], comment=title))
        picture = folder / f"picture {form}{suffix}"
        picture.write_bytes(data)
        write_tags(picture, Tags("Sleeve", picture=b"\x89PNG" + random.bytes(10_000_000)))
    odd_tags(folder, whole["mp3"])
    os.mkfifo(folder / "pipe.mp3")
    (folder / "link round.mp3").symlink_to(folder / "link round.mp3")
    (folder / "link device.wav").symlink_to("/dev/zero")
    (folder / "link outside.mp3").symlink_to(outside)
    (folder / "link up").symlink_to(folder.parent, target_is_directory=True)
    return sum(1 for path in folder.iterdir() if path.name != "link up")


def odd_tags(folder: Path, mp3: bytes) -> None:
    """Tags that lie, that nest, and several kinds in one file."""
    for number, (bpm, key) in enumerate(
        (("-120", "H#"), ("99999", "??"), ("1e400", "A" * 500), ("nan", "\x00"))
    ):
        path = folder / f"liar {number}.mp3"
        path.write_bytes(mp3)
        tags = ID3()
        for frame in (
            TBPM(3, [bpm]),
            TKEY(3, [key]),
            TIT2(3, [""]),
            TPE1(3, ["\x00\x00"]),
            COMM(3, "xxx", "", [""]),
        ):
            tags.add(frame)
        tags.add(APIC(3, "image/jpeg", 3, "", b""))
        tags.save(path)
        APEv2().save(path)


def test_each_of_many_hard_files_ends_in_the_report(
    house: House, tmp_path_factory: pytest.TempPathFactory, caplog: pytest.LogCaptureFixture
) -> None:
    outside = tmp_path_factory.mktemp("outside") / "secret.mp3"
    encode(drum_loop(99.0, 0.2, 3.0), RATE_HZ, outside, "mp3")
    count = fill(house.music, outside)
    assert count >= 150
    began = time.monotonic()
    with caplog.at_level(logging.ERROR):
        job = house.wait(house.services.importer.add([house.music]), seconds=500)
    took_s = time.monotonic() - began
    files = imports.list_files(house.database.read(), job.id, None, 0, -1)
    assert len(files) == count and job.error is None
    for file in files:
        name = Path(file.path).name
        expected = next(classes for prefix, classes in EXPECTED.items() if name.startswith(prefix))
        assert file.outcome in expected, (name, file)
        assert file.outcome == "added" or len(file.reason) > 10, (name, "is refused without a word")
        assert "Traceback" not in file.reason and "Error(" not in file.reason, file
    assert not [record for record in caplog.records if record.exc_info], "nothing was unforeseen"
    stored = {row["title"] for row in house.database.read().execute("SELECT title FROM shelf")}
    assert {"x" * 1000, "שלום עולם", "🌊" * 50, "'; DROP TABLE track; --", "a b c [31m"} <= stored
    assert took_s < SLOWEST_S * count
    assert not house.database.read().execute("SELECT 1 FROM track WHERE path LIKE '%secret%'").fetchone()
