"""How fast and how heavy the analysis is: each measured in a process of its own, on one core."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from vinyl.bench.material import FIRST_SEED, Samples
from vinyl.core.analysis import RATE_HZ, analyse_blocks
from vinyl.core.timing import Stopwatch
from vinyl.demo.fresh import COURSES, Course, fresh_piece
from vinyl.media.decode import BLOCK, decode_blocks
from vinyl.media.encode import encode

SONG_S = 300
MIX_S = 3 * 3600
PIECES = 3
PIECE_S = 100
OF_A_KIND = 5


def measure_speed() -> dict[str, Any]:
    """A five-minute MP3 with the share of each stage, librosa's beat tracker on the same file, MP3s of each
    kind of tempo, and a three-hour mix.
    """
    with tempfile.TemporaryDirectory() as folder:
        song = Path(folder) / "song.mp3"
        samples, _ = fresh_piece(FIRST_SEED)
        encode(np.tile(samples, 3)[:, : SONG_S * RATE_HZ], RATE_HZ, song, "mp3")
        return {
            "five-minute MP3": _alone("song", str(song)),
            "librosa's beat tracker on it": _alone("librosa", str(song)),
            **{f"{OF_A_KIND} {kind} MP3s": _of_kind(Path(folder), kind) for kind in dict.fromkeys(COURSES)},
            "three-hour mix": _alone("mix", str(_mix_file(Path(folder)))),
        }


def _of_kind(folder: Path, kind: Course) -> dict[str, Any]:
    """Times real time of the first fresh pieces with a kind of tempo."""
    seeds = [s for s in range(FIRST_SEED, FIRST_SEED + 100) if COURSES[s % len(COURSES)] == kind]
    found = []
    for seed in seeds[:OF_A_KIND]:
        samples, _ = fresh_piece(seed)
        encode(samples, RATE_HZ, folder / f"{seed}.mp3", "mp3")
        found.append(_alone("song", str(folder / f"{seed}.mp3"))["times real time"])
    return {"times real time, median": float(np.median(found)), "least": min(found)}


def _alone(what: str, path: str) -> dict[str, Any]:
    command = [sys.executable, "-m", "vinyl.bench.speed", what, path]
    printed = subprocess.run(
        command, check=True, capture_output=True, text=True, env={**os.environ, "OPENBLAS_NUM_THREADS": "1"}
    ).stdout
    result: dict[str, Any] = json.loads(printed)
    return result


def _mix_file(folder: Path) -> Path:
    """Pieces one after the other, each at its own tempo, as bare samples."""
    path = folder / "pieces"
    pieces = [fresh_piece(seed)[0][:, : PIECE_S * RATE_HZ] for seed in range(FIRST_SEED, FIRST_SEED + PIECES)]
    np.concatenate(pieces, axis=1).T.astype(np.float32).tofile(path)
    return path


def _mix(path: Path) -> Iterator[Samples]:
    """The pieces over and over, until three hours are full."""
    left = MIX_S * RATE_HZ
    while left > 0:
        with path.open("rb") as file:
            while left > 0 and (data := file.read(8 * min(BLOCK, left))):
                block = np.frombuffer(data, np.float32).reshape(-1, 2).T
                left -= block.shape[1]
                yield np.ascontiguousarray(block)


def _timed(blocks: Iterator[Samples], watch: Stopwatch) -> Iterator[Samples]:
    while True:
        with watch.stage("decode"):
            block = next(blocks, None)
        if block is None:
            return
        yield block


def _measure_librosa(path: str) -> dict[str, Any]:
    """Loading included, as decoding is with ours; on its second run, since the first compiles."""
    from librosa import load
    from librosa.beat import beat_track

    for _ in range(2):
        began = time.perf_counter()
        mono, rate_hz = load(path)
        beat_track(y=mono, sr=rate_hz)
        seconds = time.perf_counter() - began
    return {"times real time": round(len(mono) / rate_hz / seconds, 1), "peak memory MB": _peak_memory_mb()}


def _measure(what: str, path: str) -> dict[str, Any]:
    watch = Stopwatch()
    began = time.perf_counter()
    result = analyse_blocks(
        _timed(decode_blocks(Path(path)) if what == "song" else _mix(Path(path)), watch), None, watch
    )
    seconds = time.perf_counter() - began - (watch.seconds["decode"] if what == "mix" else 0.0)
    total = sum(watch.seconds.values())
    return {
        "times real time": round(result.duration_s / seconds, 1),
        "peak memory MB": _peak_memory_mb(),
        "share of time": {
            name: round(spent / total, 3)
            for name, spent in sorted(watch.seconds.items(), key=lambda item: -item[1])
        },
    }


def _peak_memory_mb() -> int:
    """Of this process alone: what getrusage says may be the parent's, from before it was replaced."""
    status = Path("/proc/self/status").read_text()
    return round(int(status.split("VmHWM:")[1].split()[0]) / 1024)


if __name__ == "__main__":
    print(json.dumps(_measure_librosa(sys.argv[2]) if sys.argv[1] == "librosa" else _measure(*sys.argv[1:3])))
