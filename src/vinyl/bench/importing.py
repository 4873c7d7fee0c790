"""How fast files come in: MP3 and FLAC with pictures, all at once, through a server of its own."""

from __future__ import annotations

import json
import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np

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
LOOK_S, START_LIMIT_S = 0.5, 120.0
PROBED = 20


def measure_importing(count: int = FILES) -> dict[str, Any]:
    """Files a second, tags and facts without analysis, and the memory of the server meanwhile."""
    with tempfile.TemporaryDirectory() as scratch:
        music, home = Path(scratch) / "music", Path(scratch) / "home"
        make_files(music, count)
        os.sync()
        port = _free_port()
        command = [sys.executable, "-m", "vinyl", "start", "--home", str(home), "--port", str(port)]
        server = subprocess.Popen([*command, "--no-open", "--allow", scratch])
        try:
            seconds, outcomes = _import(f"http://127.0.0.1:{port}", music)
            memory_mb = _most_memory_mb(server.pid)
        finally:
            server.terminate()
            server.wait()
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


def _import(address: str, music: Path) -> tuple[float, dict[str, int]]:
    """Seconds from asking for an import to its end."""
    _ask_until(f"{address}/api/undo")
    asked = {"arrival": "when asked", "turn": "newest first", "windows": {}}
    _send("PUT", f"{address}/api/analysis", asked)
    began = time.perf_counter()
    _send("POST", f"{address}/api/imports", {"paths": [str(music)]})
    while True:
        (run,) = json.load(urllib.request.urlopen(f"{address}/api/imports"))
        if run["finished_at"]:
            return time.perf_counter() - began, run["outcomes"]
        time.sleep(LOOK_S)


def _send(method: str, address: str, body: object) -> None:
    headers = {"Content-Type": "application/json"}
    data = json.dumps(body).encode()
    urllib.request.urlopen(urllib.request.Request(address, data, headers, method=method)).close()


def _ask_until(address: str) -> None:
    ends = time.monotonic() + START_LIMIT_S
    while True:
        try:
            urllib.request.urlopen(address).close()
        except urllib.error.URLError:
            if time.monotonic() > ends:
                raise
            time.sleep(LOOK_S)
        else:
            return


def _most_memory_mb(pid: int) -> int:
    status = Path(f"/proc/{pid}/status").read_text()
    line = next(line for line in status.splitlines() if line.startswith("VmHWM"))
    return round(int(line.split()[1]) / 1024)


def _whole_reading_ms(folder: Path) -> float:
    """What the check of every packet costs, that the analysis does instead."""
    path = folder / "whole.mp3"
    encode(_noise(240.0), RATE_HZ, path, "mp3")
    began = time.perf_counter()
    for _ in range(PROBED):
        probe(path)
    return round(1000 * (time.perf_counter() - began) / PROBED, 1)


def _free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])
