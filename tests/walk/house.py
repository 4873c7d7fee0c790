"""The house that is walked through: a home with analysed music, made once and laid out anew for each walk,
and its server, in a time zone.
"""

from __future__ import annotations

import json
import shutil
import socket
import sqlite3
import struct
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from contextlib import closing
from pathlib import Path
from typing import Any

import psutil

from tests.patience import wait_for
from tests.running import OPEN, Server
from tests.signals import RATE_HZ, drum_loop
from tests.zones import AUCKLAND, LONDON, NEW_YORK
from vinyl.library.lock import KEY_HEADER
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, write_tags

ZONES = (NEW_YORK, LONDON, AUCKLAND)
SONGS = (("Anchor", "Kelp Union", "flac"), ("Buoy", "Osk & Maren", "mp3"), ("Cleat", "Kelp Union", "wav"),
         ("Dock", "", "flac"), ("Ebb", "Tern Logic", "m4a"))  # fmt: skip
LATER = (("Fender", "Kelp Union", "flac"), ("Gunwale", "Nils Weir", "mp3"), ("Anchor", "Tern Logic", "flac"))
SETTLED_S = 0.12
# Longer than any answer may take on a busy machine.
PATIENCE_S = 120.0


class Answer:
    """An answer of the server: its status, what it says, and what it tells of changes."""

    def __init__(self, status: int, body: bytes) -> None:
        self.status, self._body = status, body

    @property
    def is_good(self) -> bool:
        return self.status < 300

    @property
    def told(self) -> Any:
        return json.loads(self._body) if self._body else None

    @property
    def words(self) -> str:
        return self._body[:400].decode("utf-8", "replace")


class Listener:
    """Hears the server's events in a thread, as an open window does."""

    def __init__(self, address: str, key: str) -> None:
        self.events: list[dict[str, Any]] = []
        self.revision = -1
        request = urllib.request.Request(f"{address}/api/events", headers={KEY_HEADER: key})
        self._stream = urllib.request.urlopen(request, timeout=PATIENCE_S)
        threading.Thread(target=self._hear, daemon=True).start()

    def _hear(self) -> None:
        try:
            for line in self._stream:
                if line.startswith(b"data:"):
                    event = json.loads(line[5:])
                    self.events.append(event)
                    self.revision = max(self.revision, event.get("revision", -1))
        except (OSError, ValueError, AttributeError):
            return

    def close(self) -> None:
        """Hear no more."""
        with_socket = getattr(self._stream.fp, "raw", None)
        if with_socket is not None and getattr(with_socket, "_sock", None) is not None:
            with_socket._sock.shutdown(socket.SHUT_RDWR)


class House:
    """A server on a home of its own, with ways to ask it and to look at what it keeps."""

    def __init__(self, template: Path, folder: Path, zone: str) -> None:
        self.folder, self.zone = folder, zone
        shutil.rmtree(folder, ignore_errors=True)
        shutil.copytree(template, folder, symlinks=True)
        self.home, self.music, self.out = folder / "home", folder / "music", folder / "out"
        self.server = self._server()
        self.begin()

    def _server(self) -> Server:
        return Server(self.home, "--allow", str(self.folder), environment={"TZ": self.zone})

    def begin(self) -> None:
        self.server.start()
        self.listener = Listener(self.server.address, self.server.key)

    def end(self, kill: bool = False) -> None:
        self.listener.close()
        (self.server.kill if kill else self.server.stop)()

    def again(self, zone: str, kill: bool) -> None:
        """The server ends, or is killed, and is begun again, perhaps in another zone."""
        self.end(kill)
        self.zone = zone
        self.server = self._server()
        self.begin()

    def ask(self, method: str, path: str, body: object = None) -> Answer:
        """Ask the server; that it answers, and never by a fault of its own, is looked at here."""
        data = None if body is None else json.dumps(body).encode()
        headers = {"Content-Type": "application/json", KEY_HEADER: self.server.key}
        request = urllib.request.Request(self.server.address + path, data, headers, method=method)
        try:
            with urllib.request.urlopen(request, timeout=PATIENCE_S) as response:
                answer = Answer(response.status, response.read())
        except urllib.error.HTTPError as error:
            answer = Answer(error.code, error.read())
        assert answer.status < 500, (
            f"{method} {path} {json.dumps(body)[:300]}: {answer.status} {answer.words}"
        )
        return answer

    def get(self, path: str) -> Any:
        """What stands somewhere that is there."""
        answer = self.ask("GET", path)
        assert answer.is_good, f"GET {path}: {answer.status} {answer.words}"
        return answer.told

    def rest(self) -> None:
        """Wait until no job is open, nothing changes any more, and the window has heard of all."""

        def still() -> bool:
            if any(job["state"] in OPEN and job["state"] != "paused" for job in self.get("/api/jobs")):
                return False
            before = self.revision()
            time.sleep(SETTLED_S)
            return before == self.revision()

        wait_for(still, lambda: f"the end of all work: {self.get('/api/jobs')[:3]}", PATIENCE_S)
        wait_for(
            lambda: self.listener.revision >= self.revision(),
            lambda: f"the window to hear of revision {self.revision()}: it knows {self.listener.revision}",
            15,
        )

    def reader(self) -> closing[sqlite3.Connection]:
        """A look into the library's file, beside the server."""
        connection = sqlite3.connect(f"file:{self.home / 'library.db'}?mode=ro", uri=True)
        connection.row_factory = sqlite3.Row
        return closing(connection)

    def revision(self) -> int:
        with self.reader() as read:
            return int(read.execute("SELECT number FROM revision").fetchone()[0])

    def process(self) -> psutil.Process:
        assert self.server.process is not None
        return psutil.Process(self.server.process.pid)

    def command(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        """A command beside the server."""
        given = [sys.executable, "-m", "vinyl", *arguments, "--home", str(self.home)]
        return subprocess.run(given, capture_output=True, text=True, timeout=PATIENCE_S, check=False)


def make_template(folder: Path, at: Path) -> Path:
    """Make a home in which five songs are analysed; paths are those that it has when it is laid out."""
    if at.exists():
        shutil.rmtree(at)
    (at / "music").mkdir(parents=True)
    (at / "later").mkdir()
    (at / "out").mkdir()
    for number, (title, artist, form) in enumerate(SONGS):
        _song(at / "music", title, artist, form, 110.0 + 3 * number, number)
    for number, (title, artist, form) in enumerate(LATER):
        _song(at / "later", title, artist, form, 118.0 + 5 * number, 40 + number)
    _odd_files(at / "later")
    server = Server(at / "home", "--allow", str(at)).start()
    try:
        server.send("POST", "/api/imports", {"paths": [str(at / "music")]})
        wait_for(lambda: server.has_ended("import", "analysis"), "the import and the analysis", PATIENCE_S)
        _furnish(server)
    finally:
        server.stop()
    shutil.rmtree(folder, ignore_errors=True)
    shutil.copytree(at, folder, symlinks=True)
    return folder


def _furnish(server: Server) -> None:
    """Two crates and two tags, so that each room has something to begin with."""
    ids = server.ids_of_all()
    for name, held in (("Pier", ids[:3]), ("Mole", ids[2:])):
        crate = server.send("POST", "/api/crates", {"name": name})
        server.send("POST", f"/api/crates/{crate['id']}/tracks", {"ids": held})
    family = server.send("POST", "/api/tag-families", {"name": "Weather", "colour": "blue"})[-1]
    for name, given in (("Fog", ids[:2]), ("Mist", ids[1:4])):
        families = server.send("POST", "/api/tags", {"family_id": family["id"], "name": name})
        tag = next(tag for each in families for tag in each["tags"] if tag["name"] == name)
        server.send("PUT", "/api/tracks/tags", {"ids": given, "tag_id": tag["id"], "given": True})


def _song(folder: Path, title: str, artist: str, form: str, bpm: float, seed: int) -> None:
    path = folder / f"{artist or 'unknown'} - {title}.{form}"
    encode(drum_loop(bpm, 0.25, 9.0 + seed % 3, seed=seed), RATE_HZ, path, form)
    write_tags(path, Tags(title, artist, "Tide", "House", year=2020, rating=3))


def _odd_files(folder: Path) -> None:
    (folder / "words.mp3").write_text("23:00 Anchor\n" * 40)
    whole = (folder / "unknown.wav").with_name("claims.wav")
    encode(drum_loop(120.0, 0.25, 3.0, seed=77), RATE_HZ, whole, "wav")
    data = bytearray(whole.read_bytes())
    struct.pack_into("<II", data, 24, 1, 4)
    whole.write_bytes(data)
    cut = next(folder.glob("*Fender*")).read_bytes()
    (folder / "cut.flac").write_bytes(cut[: len(cut) // 2])
    (folder / "list.m3u8").write_text(
        "#EXTM3U\n../music/Kelp Union - Anchor.flac\nnowhere.mp3\n#1/none.mp3\n"
    )


def scratch() -> Path:
    """Where walks take place."""
    return Path(tempfile.mkdtemp(prefix="vinyl-walk-"))
