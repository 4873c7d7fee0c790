"""How fast files come in: MP3 and FLAC with pictures, all at once, through a server of its own."""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

from vinyl.bench.server import BenchServer, serving
from vinyl.demo.pictures import sleeve
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.glance import PIECE_BYTES, PIECES
from vinyl.media.probe import probe
from vinyl.media.tags import Tags, write_tags

FILES = 20_000
FORMS = ("mp3", "flac")
# Short and soft, so that many fit on the disk: neither counts where only pieces of a file are read.
SECONDS, LOUDNESS, RATE_HZ = 4.0, 0.003, 44100
PICTURE_BYTES = 60_000
IN_FOLDER = 200
LOOK_S = 0.5
PROBED = 20


def measure_importing(count: int = FILES) -> dict[str, Any]:
    """Files a second, tags and facts without analysis, and the memory of the server meanwhile."""
    with tempfile.TemporaryDirectory() as scratch:
        music, home = Path(scratch) / "music", Path(scratch) / "home"
        make_files(music, count)
        os.sync()
        with serving(home, "--allow", scratch) as server:
            seconds, outcomes = _import(server, music)
            memory_mb = server.most_memory_mb()
        return {
            "files": count,
            "files a second": round(count / seconds, 1),
            "added": outcomes["added"],
            "server at its largest, MB": memory_mb,
            "reading every packet of an MP3 of 4 minutes, ms": _whole_reading_ms(Path(scratch)),
        }


def make_files(folder: Path, count: int) -> None:
    """Files with sounds of their own: one of each form, with a few bytes of each copy's sound changed."""
    folder.mkdir()
    samples = _noise(SECONDS)
    for form in FORMS:
        model = folder / f"model{ENCODINGS[form].suffix}"
        encode(samples, RATE_HZ, model, form)
        picture = sleeve(7)
        write_tags(model, Tags("Model", "Bench", "Imports", "House", year=2026, picture=_padded(picture)))
    models = [model.read_bytes() for model in sorted(folder.iterdir())]
    for model in list(folder.iterdir()):
        model.unlink()
    for number in range(count):
        form = FORMS[number % len(FORMS)]
        data = bytearray(models[sorted(FORMS).index(form)])
        at = len(data) - PIECE_BYTES // PIECES
        data[at : at + 8] = number.to_bytes(8, "big")
        path = folder / f"{number // IN_FOLDER:04d}" / f"{number}{ENCODINGS[form].suffix}"
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(data)


def _padded(picture: bytes) -> bytes:
    return picture + bytes(max(0, PICTURE_BYTES - len(picture)))


def _noise(seconds: float) -> np.ndarray[Any, np.dtype[np.float32]]:
    noise = np.random.default_rng(1).normal(0, LOUDNESS, (2, round(seconds * RATE_HZ)))
    return noise.astype(np.float32)


def _import(server: BenchServer, music: Path) -> tuple[float, dict[str, int]]:
    """Seconds from asking for an import to its end."""
    server.ask("PUT", "/api/analysis", {"arrival": "when asked", "turn": "newest first", "windows": {}})
    began = time.perf_counter()
    server.ask("POST", "/api/imports", {"paths": [str(music)]})
    while True:
        (run,) = server.ask("GET", "/api/imports")
        if run["finished_at"]:
            return time.perf_counter() - began, run["outcomes"]
        time.sleep(LOOK_S)


def _whole_reading_ms(folder: Path) -> float:
    """What the check of every packet costs, that the analysis does instead."""
    path = folder / "whole.mp3"
    encode(_noise(240.0), RATE_HZ, path, "mp3")
    began = time.perf_counter()
    for _ in range(PROBED):
        probe(path)
    return round(1000 * (time.perf_counter() - began) / PROBED, 1)
