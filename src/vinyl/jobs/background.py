"""What every part of the server that works in the background is built on."""

from __future__ import annotations

from collections.abc import Sequence

from vinyl.jobs.runner import Kind, Runner
from vinyl.library.database import Database


class Background:
    """Kinds of jobs that belong together, over a library and its runner."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._runs: Runner | None = None

    def kinds(self) -> Sequence[Kind]:
        """The kinds of jobs that it can do."""
        raise NotImplementedError

    def register(self, runner: Runner) -> None:
        """Make its kinds known to a runner; before that is started, and before anything is begun."""
        self._runs = runner
        runner.register(*self.kinds())

    @property
    def _runner(self) -> Runner:
        if self._runs is None:
            raise RuntimeError(f"{type(self).__name__} was not registered with a runner")
        return self._runs
