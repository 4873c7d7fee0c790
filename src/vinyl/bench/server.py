"""A server of Vinyl on a home of its own, as the bench asks it: over HTTP, from outside."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx2 as httpx
import psutil

from vinyl.library.lock import KEY, KEY_HEADER

LOOK_S, START_LIMIT_S, ANSWER_LIMIT_S = 0.02, 300.0, 300.0


class BenchServer:
    """A server that runs, and how long it took to answer first."""

    def __init__(self, address: str, key: str, process: psutil.Process, start_s: float) -> None:
        self._client = httpx.Client(
            base_url=address, headers={KEY_HEADER: key}, timeout=ANSWER_LIMIT_S, trust_env=False
        )
        self._process = process
        self.start_s = start_s

    def ask(self, method: str, path: str, body: object = None) -> Any:
        """What it answers.

        Raises:
            httpx.HTTPStatusError: if it refuses.
        """
        answer = self._client.request(method, path, json=body)
        answer.raise_for_status()
        return answer.json() if answer.content else None

    def answer_ms(self, method: str, path: str, body: object = None) -> float:
        """How long it takes to answer, to the last byte."""
        began = time.perf_counter()
        self._client.request(method, path, json=body).raise_for_status()
        return 1000 * (time.perf_counter() - began)

    def begun_and_done_ms(self, method: str, path: str, body: object = None) -> tuple[float, float]:
        """How long it takes to answer, and until the work that it may begin in the background is done."""
        began = time.perf_counter()
        job = self.ask(method, path, body).get("job")
        answered_ms = 1000 * (time.perf_counter() - began)
        while job and job["state"] in ("waiting", "running"):
            time.sleep(LOOK_S)
            job = self.ask("GET", f"/api/jobs/{job['id']}")
        return answered_ms, 1000 * (time.perf_counter() - began)

    def memory_mb(self) -> int:
        """What the server has in memory now, without its workers."""
        return round(self._process.memory_info().rss / 1024**2)

    def most_memory_mb(self) -> int:
        """What the server had in memory at its largest."""
        status = Path(f"/proc/{self._process.pid}/status").read_text()
        line = next(line for line in status.splitlines() if line.startswith("VmHWM"))
        return round(int(line.split()[1]) / 1024)


@contextmanager
def serving(home: Path, *arguments: str) -> Iterator[BenchServer]:
    """A server on a home, until the block ends."""
    port = _free_port()
    command = [sys.executable, "-m", "vinyl", "start", "--home", str(home), "--port", str(port), "--no-open"]
    began = time.perf_counter()
    process = subprocess.Popen([*command, *arguments], stdout=subprocess.DEVNULL)
    try:
        address = f"http://127.0.0.1:{port}"
        key = _key_once_it_answers(address, home)
        yield BenchServer(address, key, psutil.Process(process.pid), time.perf_counter() - began)
    finally:
        process.terminate()
        process.wait()


def _key_once_it_answers(address: str, home: Path) -> str:
    ends = time.monotonic() + START_LIMIT_S
    while True:
        try:
            key = (home / KEY).read_text(encoding="ascii")
            httpx.get(f"{address}/api/undo", headers={KEY_HEADER: key}, trust_env=False).raise_for_status()
        except (OSError, httpx.HTTPError):
            if time.monotonic() > ends:
                raise
            time.sleep(LOOK_S)
        else:
            return key


def _free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])
