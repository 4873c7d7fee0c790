"""What a running server consists of, put together in one place."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

from fastapi import Depends, Request

from vinyl.jobs.analysing import Analyser
from vinyl.jobs.events import Broadcaster
from vinyl.jobs.importing import Importer
from vinyl.jobs.packing import Packer
from vinyl.library.database import Database
from vinyl.library.likeness import AlikeFinder
from vinyl.library.waveforms import WaveformStore
from vinyl.media.files import AllowedRoots, allowed_roots
from vinyl.media.listening import ListeningCopies


@dataclass(frozen=True, slots=True)
class Settings:
    """Where things are. ``offered`` are folders that Arrivals proposes."""

    home: Path
    web: Path
    allow: tuple[Path, ...] = ()
    offered: tuple[Path, ...] = ()
    workers: int | None = None

    @property
    def sticks(self) -> Path:
        return self.home / "sticks"


class Services:
    """The library and the background work of one server."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.events = Broadcaster()
        self.database = Database(settings.home / "library.db")
        self.alike = AlikeFinder()
        self.waveforms = WaveformStore(settings.home / "waveforms")
        self.listening = ListeningCopies(settings.home / "listening")
        self.roots: AllowedRoots = allowed_roots((*settings.allow, *settings.offered))
        self.analyser = Analyser(self.database, self.waveforms, self.events, settings.workers)
        self.importer = Importer(self.database, self.roots, self.events, self.analyser.added)
        self.packer = Packer(self.database, self.events)

    def start(self) -> None:
        self.analyser.start()
        self.importer.start()
        self.packer.start()

    def stop(self) -> None:
        self.importer.stop()
        self.packer.stop()
        self.analyser.stop()

    def changed(self, kind: str, **details: object) -> None:
        """Tell all windows that something in the library is different now."""
        self.events.publish({"type": kind, **details})


def get_services(request: Request) -> Services:
    services: Services = request.app.state.services
    return services


Use = Annotated[Services, Depends(get_services)]
