"""Undo and redo."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.models.history import UndoOut
from vinyl.api.services import Services, Use
from vinyl.library import undo

router = APIRouter(prefix="/api", tags=["undo"])


@router.get("/undo")
def undo_state(use: Use) -> UndoOut:
    """What undo and redo would take back now."""
    return UndoOut.model_validate(undo.state(use.database.read()))


@router.post("/undo")
def undo_step(use: Use) -> UndoOut:
    """Take back the last change."""
    return _step(use, "undo")


@router.post("/redo")
def redo_step(use: Use) -> UndoOut:
    """Do again what was taken back last."""
    return _step(use, "redo")


def _step(use: Services, stack: str) -> UndoOut:
    with use.database.write() as connection:
        undo.step_back(connection, stack)
    use.aside_putter.begin()
    use.changed("all")
    return UndoOut.model_validate(undo.state(use.database.read()))
