"""How fast a stick is packed, beside plain copying with checksums, and how soon an unchanged one says so."""

from __future__ import annotations

import hashlib
import os
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np
import psutil

from vinyl.bench.importing import LOOK_S
from vinyl.bench.material import FIRST_SEED
from vinyl.core.analysis import analyse
from vinyl.demo.fresh import fresh_piece
from vinyl.demo.seed import seed_library
from vinyl.jobs.events import Broadcaster
from vinyl.jobs.packing import Packer
from vinyl.jobs.runner import Runner
from vinyl.jobs.workers import Workers
from vinyl.library import crates
from vinyl.library.database import Database
from vinyl.library.waveforms import WaveformStore
from vinyl.sticks import store
from vinyl.sticks.medium import make_stand_in
from vinyl.sticks.writing import CHUNK, sha256_of

TRACKS, FILE_BYTES, MODELS = 2_000, 4_500_000, 8
CAPACITY_BYTES = 64_000_000_000


def measure_sticks(count: int = TRACKS) -> dict[str, Any]:
    """Packing so many tracks as the server does it, and the same bytes copied, flushed and read back."""
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        files = list(_files(folder / "music", count))
        stick_id = _library(folder / "home", files)
        plain_s = _copied(files, folder / "plain")
        # In a process of its own, as the server's is: without what else the bench needs.
        with ProcessPoolExecutor(1, get_context("spawn")) as server:
            packed_s, memory_mb = server.submit(_packed, folder / "home", stick_id).result()
            again_s, _ = server.submit(_packed, folder / "home", stick_id).result()
        megabytes = count * FILE_BYTES / 1e6
        return {
            "tracks": count,
            "packed, MB a second": round(megabytes / packed_s),
            "plainly copied with checksums, MB a second": round(megabytes / plain_s),
            "packed, of plain copying": f"{plain_s / packed_s:.0%}",
            "unchanged stick says so, s": round(again_s, 2),
            "memory at its largest, MB": memory_mb,
        }


def _files(folder: Path, count: int) -> Iterator[Path]:
    """Files of noise: packing does not look into them. Few on the disk, under many names."""
    folder.mkdir(parents=True)
    rng = np.random.default_rng(5)
    models = [folder / f"model {number}" for number in range(MODELS)]
    for model in models:
        model.write_bytes(rng.bytes(FILE_BYTES))
    for number in range(count):
        path = folder / f"{number:05}.mp3"
        path.hardlink_to(models[number % MODELS])
        yield path


def _library(home: Path, files: list[Path]) -> int:
    database = Database.prepared(home / "library.db")
    seed_library(database, len(files))
    with database.write() as connection:
        ids = [row[0] for row in connection.execute("SELECT id FROM track ORDER BY id")]
        for track_id, file in zip(ids, files, strict=True):
            stat = file.stat()
            connection.execute(
                "UPDATE track SET path = ?, size_bytes = ?, modified_ns = ?, codec = 'mp3' WHERE id = ?",
                (str(file), stat.st_size, stat.st_mtime_ns, track_id),
            )
        crate = crates.make_crate(connection, "All of it")
        crates.add_tracks(connection, crate, ids)
        make_stand_in(home / "sticks" / "Bench", CAPACITY_BYTES)
        stick_id = store.add_stick(connection, "Bench", home / "sticks" / "Bench", "Quay One")
        store.choose_crates(connection, stick_id, [crate])
    _draw(WaveformStore(home / "waveforms"), ids)
    return stick_id


def _draw(waveforms: WaveformStore, ids: list[int]) -> None:
    """Each track gets the waveform of the same song."""
    summary = analyse(fresh_piece(FIRST_SEED)[0]).waveform
    for track_id in ids:
        waveforms.store(track_id, summary)


def _copied(files: list[Path], folder: Path) -> float:
    """Seconds for copying with a checksum, flushing, and reading back past the cache."""
    folder.mkdir()
    began = time.monotonic()
    for file in files:
        digest, target = hashlib.sha256(), folder / file.name
        with file.open("rb") as reader, target.open("wb", buffering=0) as writer:
            while chunk := reader.read(CHUNK):
                writer.write(chunk)
                digest.update(chunk)
            os.fsync(writer.fileno())
            os.posix_fadvise(writer.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
        assert sha256_of(target) == digest.hexdigest()
    return time.monotonic() - began


def _packed(home: Path, stick_id: int) -> tuple[float, int]:
    """Seconds for packing, and the most memory meanwhile."""
    database, workers, most = Database.prepared(home / "library.db"), Workers(1), 0
    packer, runner = (
        Packer(database, workers, home / "converted", WaveformStore(home / "waveforms")),
        Runner(database, Broadcaster()),
    )
    packer.register(runner)
    runner.start()
    try:
        began = time.monotonic()
        job = packer.add(stick_id)
        while runner.get(job.id).state not in ("done", "failed"):
            most = max(most, psutil.Process().memory_info().rss)
            time.sleep(LOOK_S / 10)
        return time.monotonic() - began, round(most / 1e6)
    finally:
        runner.stop()
        workers.stop()
