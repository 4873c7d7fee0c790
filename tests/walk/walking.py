"""Going for a walk: for so many steps, or for so many minutes from one seed to the next."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import hypothesis
from hypothesis import HealthCheck, Phase, settings
from hypothesis.stateful import run_state_machine_as_test

from tests.walk.house import make_template, scratch
from tests.walk.machine import Walk


@contextmanager
def walk() -> Iterator[Path]:
    """A place to walk in, with a house ready to be laid out."""
    place = scratch()
    try:
        yield make_template(place / "template", place / "now").parent
    finally:
        shutil.rmtree(place, ignore_errors=True)


def walk_once(place: Path, seed: int, steps: int, walks: int, shrink: bool = True) -> None:
    """Walk so many steps, so often.

    Raises:
        AssertionError: what was found, with the shortest story that was found of it.
    """
    phases = (Phase.generate, Phase.shrink) if shrink else (Phase.generate,)

    Walk.template, Walk.place = place / "template", place / "now"
    run_state_machine_as_test(
        hypothesis.seed(seed)(Walk),
        settings=settings(
            max_examples=walks + 1,
            stateful_step_count=steps,
            deadline=None,
            database=None,
            phases=phases,
            print_blob=False,
            suppress_health_check=list(HealthCheck),
        ),
    )
