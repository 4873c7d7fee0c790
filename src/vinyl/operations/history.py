"""Undo and redo."""

from __future__ import annotations

from vinyl.library import undo
from vinyl.library.undo import Stack, TakenBack
from vinyl.operations.services import Services


def step_back(services: Services, stack: Stack, step_id: int | None = None) -> TakenBack:
    """Take back a step, the last if none is named, or do again what was taken back.

    Raises:
        NotFoundError: if there is nothing to take back, or not this step.
    """
    with services.database.write() as connection:
        taken = undo.step_back(connection, stack, step_id)
    services.aside_putter.begin()
    services.twin_finder.begin()
    return taken
