"""A real server in a process of its own, and a real browser, for journeys and screenshots."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import urllib.error
import urllib.request
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

from tests.patience import wait_for
from vinyl.library.lock import KEY, KEY_HEADER

OPEN = ("waiting", "running", "paused")
FLAGS = [
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
    "--hide-scrollbars",
]


class Server:
    """``python -m vinyl`` on a free port; can be killed and started again on the same home."""

    def __init__(
        self,
        home: Path,
        *arguments: str,
        command: str = "start",
        environment: Mapping[str, str] | None = None,
    ) -> None:
        self.home = home
        self._environment = {**os.environ, "OPENBLAS_NUM_THREADS": "1", **(environment or {})}
        # Beside other programs, workers of the lowest priority would wait for ever.
        self.command = [command, "--home", str(home), "--no-open", "--nice", "0", *arguments]
        self.port = free_port()
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    @property
    def key(self) -> str:
        """What the server lets in who has."""
        return (self.home / KEY).read_text().strip()

    def start(self) -> Server:
        log = (self.home.parent / f"{self.home.name}.log").open("ab")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "vinyl", *self.command, "--port", str(self.port)],
            env=self._environment,
            stdout=log,
            stderr=log,
        )
        log.close()
        wait_for(self.answers, f"the server on port {self.port}", 60)
        return self

    def answers(self) -> bool:
        if self.process and self.process.poll() is not None:
            raise AssertionError(
                f"the server ended: {(self.home.parent / f'{self.home.name}.log').read_text()[-2000:]}"
            )
        try:
            self.get("/api/undo")
        except OSError:
            return False
        return True

    def get(self, path: str) -> Any:
        return self.send("GET", path)

    def send(self, method: str, path: str, body: object = None) -> Any:
        data = None if body is None else json.dumps(body).encode()
        headers = {"Content-Type": "application/json", KEY_HEADER: self.key}
        request = urllib.request.Request(self.address + path, data, headers, method=method)
        with urllib.request.urlopen(request, timeout=90) as response:
            text = response.read()
        return json.loads(text) if text else None

    def tracks(self, *, crate: int | None = None) -> list[dict[str, Any]]:
        """Every track, by its id; or those of a crate in its order."""
        found = {"where": {"kind": "all", "parts": []}, "limit": 500}
        order = {"sort": "crate", "crate_id": crate} if crate is not None else {"sort": "added_at"}
        rows = self.send("POST", "/api/tracks/find", {**found, **order})["rows"]
        return list(rows) if crate is not None else sorted(rows, key=lambda track: track["id"])

    def ids(self) -> dict[str, int]:
        """The tracks' ids by their titles."""
        return {track["title"]: track["id"] for track in self.tracks()}

    def ids_of_all(self) -> list[int]:
        """Every track's id."""
        return [track["id"] for track in self.tracks()]

    def pause_analysis(self) -> None:
        """Let the analysis rest, once it has begun."""
        job = wait_for(lambda: self.jobs("analysis"), "an analysis to pause")[0]
        self.send("POST", f"/api/jobs/{job['id']}/pause")

    def jobs(self, kind: str) -> list[dict[str, Any]]:
        """Jobs of a kind, the newest first."""
        return [job for job in self.get("/api/jobs") if job["kind"] == kind]

    def has_ended(self, *kinds: str) -> bool:
        """Whether there have been jobs of all these kinds and none is open."""
        jobs = [self.jobs(kind) for kind in kinds]
        return all(jobs) and not any(job["state"] in OPEN for each in jobs for job in each)

    def kill(self) -> None:
        """As a power cut does it."""
        if self.process:
            self.process.send_signal(signal.SIGKILL)
            self.process.wait()
            self.process = None

    def stop(self) -> None:
        if self.process:
            self.process.terminate()
            try:
                self.process.wait(20)
            except subprocess.TimeoutExpired:
                self.kill()
            self.process = None


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def make_browser(profile: Path, size: tuple[int, int] = (1280, 800)) -> webdriver.Chrome:
    """Headless Chromium with a fresh profile and a page of exactly this size."""
    options = Options()
    for flag in (*FLAGS, f"--user-data-dir={profile}", "--lang=en-GB"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    options.binary_location = "/usr/bin/chromium"
    browser = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    # Tests add scripts of their own to the page.
    browser.execute_cdp_cmd("Page.setBypassCSP", {"enabled": True})
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": size[0], "height": size[1], "deviceScaleFactor": 1, "mobile": False},
    )
    return browser
