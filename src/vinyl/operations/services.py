"""What a running server, or a command without one, consists of: put together in one place."""

from __future__ import annotations

import os
from contextvars import ContextVar
from dataclasses import dataclass
from pathlib import Path

from vinyl.jobs.analysing import Analyser
from vinyl.jobs.carrying import Carrier
from vinyl.jobs.coming import Comer
from vinyl.jobs.comparing import Comparer
from vinyl.jobs.demo_making import DemoMaker
from vinyl.jobs.documents import DocumentKeeper
from vinyl.jobs.editing import Editor
from vinyl.jobs.events import Broadcaster
from vinyl.jobs.finding_again import Finder
from vinyl.jobs.foreign import make_readers, opener
from vinyl.jobs.importing import Importer
from vinyl.jobs.keeping import ListKeeper
from vinyl.jobs.listening_again import Listener
from vinyl.jobs.listing import Lister
from vinyl.jobs.nights import NightReader
from vinyl.jobs.packing import Packer
from vinyl.jobs.papers import PaperReader
from vinyl.jobs.putting_aside import AsidePutter
from vinyl.jobs.rereading import Rereader
from vinyl.jobs.runner import Runner
from vinyl.jobs.tag_writing import TagWriter
from vinyl.jobs.templating import Templater
from vinyl.jobs.twin_finding import TwinFinder
from vinyl.jobs.twin_settling import Settler
from vinyl.jobs.watching import Watcher
from vinyl.jobs.workers import Workers
from vinyl.library.changes import Change
from vinyl.library.database import Database
from vinyl.library.likeness import AlikeFinder
from vinyl.library.lock import key_of
from vinyl.library.tables import Topic
from vinyl.library.twin_pairs import attacks_from
from vinyl.library.waveforms import WaveformStore
from vinyl.media.files import AllowedRoots, allowed_roots, make_private
from vinyl.media.listening import ListeningCopies

# Folders of the home that only its owner looks into.
PRIVATE = ("", "waveforms", "listening", "scratch", "converted", "desks", "reviews", "kept tags", "put aside")
READERS, READERS_NICE = 2, 10
QUICK = 2

# What the request in hand has changed; told in its answer too, so that its window need not wait for the
# event.
changes_of_request: ContextVar[list[Change] | None] = ContextVar("changes_of_request", default=None)


@dataclass(frozen=True, slots=True)
class Settings:
    """Where things are. ``offered`` are folders that Arrivals proposes."""

    home: Path
    web: Path
    allow: tuple[Path, ...] = ()
    offered: tuple[Path, ...] = ()
    workers: int | None = None
    # How far the analysis gives way to everything else, from 0 to 19.
    nice: int = 19

    @property
    def sticks(self) -> Path:
        return self.home / "sticks"


class Services:
    """The library and the background work of one server."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.events = Broadcaster()
        for name in PRIVATE:
            make_private(settings.home / name)
        self.key = key_of(settings.home)
        self.database = Database.prepared(settings.home / "library.db")
        self.database.on_change = self._tell
        self.alike = AlikeFinder()
        self.waveforms = WaveformStore(settings.home / "waveforms")
        self.listening = ListeningCopies(settings.home / "listening")
        self.roots: AllowedRoots = allowed_roots((*settings.allow, *settings.offered))
        self.quick = Workers(QUICK, nice=0)
        analysing = settings.workers or os.cpu_count() or 1
        self._analysing, self._reading = (
            Workers(analysing, nice=settings.nice),
            Workers(READERS, nice=min(READERS_NICE, settings.nice)),
        )
        self._making = Workers(READERS, nice=min(READERS_NICE, settings.nice))
        self.runner = Runner(self.database, self.events)
        self.analyser = Analyser(self.database, self.waveforms, self._analysing)
        self.importer = Importer(self.database, self.roots, self._reading, self.analyser.begin)
        self.demo = DemoMaker(self.database, settings.home / "demo", self._making, self.importer)
        self.lister = Lister(self.database, self.roots, self.quick, self.importer)
        self.nights = NightReader(self.database, self.roots, self.quick)
        self.watcher = Watcher(self.database, self.roots, self.importer)
        self.packer = Packer(self.database, self.quick, settings.home / "converted", self.waveforms)
        self.listener = Listener(self.database, self.roots, self.quick, settings.home / "scratch")
        self.papers = PaperReader(self.quick)
        self.templater = Templater(self.database)
        self.editor = Editor(self.database)
        self.rereader = Rereader(self.database, self.roots, self.quick)
        self.tag_writer = TagWriter(self.database, self.roots, self.quick, settings.home / "kept tags")
        self.comparer = Comparer(self.database, self.roots, self._analysing)
        self.aside_putter = AsidePutter(self.database, self.roots, settings.home / "put aside")
        self.finder = Finder(self.database, self.roots, self.quick, self.importer)
        self._foreign = make_readers()
        open_there = opener(self._foreign, self.roots, settings.home / "scratch")
        desks, kept_tags = settings.home / "desks", settings.home / "kept tags"
        self.carrier = Carrier(self.database, self.roots, self.quick, desks, kept_tags, open_there)
        self.comer = Comer(self.database, self.roots, settings.home / "reviews", open_there)
        self.documents = DocumentKeeper(self.database, self.roots)
        self.keeper = ListKeeper(self.database, self.events)
        self.twin_finder = TwinFinder(self.database, settings.home / "waveforms", self._making)
        self.analyser.after(self.twin_finder.begin)
        attacks_of = attacks_from(self.waveforms)
        self.settler = Settler(self.database, attacks_of, self.aside_putter.begin)
        for part in (
            self.finder,
            self.aside_putter,
            self.tag_writer,
            self.comparer,
            self.analyser,
            self.importer,
            self.demo,
            self.packer,
            self.listener,
            self.templater,
            self.editor,
            self.rereader,
            self.carrier,
            self.comer,
            self.documents,
            self.twin_finder,
            self.settler,
        ):
            part.register(self.runner)

    def start(self) -> None:
        self.runner.start()
        self.aside_putter.begin()
        self.analyser.begin()
        self.twin_finder.begin()
        self.importer.look_after_files()
        self.watcher.start()
        self.keeper.start()

    def stop(self) -> None:
        self.keeper.stop()
        self.watcher.stop()
        self.importer.stop()
        self.runner.stop()
        for workers in (self._analysing, self._reading, self._making, self._foreign, self.quick):
            workers.stop()

    def changed(self, *topics: Topic) -> None:
        """Tell all windows that something beside the library is different now, such as a stick."""
        self._tell(Change(self.database.touch(), topics))

    def _tell(self, change: Change) -> None:
        mine = changes_of_request.get()
        if mine is not None:
            mine.append(change)
        self.events.publish(change)
