"""Undo and redo."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.models.history import StepIn, StepOut, TakenBackOut, UndoOut
from vinyl.api.services import Use
from vinyl.library import undo
from vinyl.library.undo import Stack, Step
from vinyl.operations import history
from vinyl.operations.services import Services

router = APIRouter(prefix="/api", tags=["undo"])


@router.get("/undo")
def undo_state(use: Use) -> UndoOut:
    """What undo and redo would take back now."""
    state = undo.state(use.database.read())
    return UndoOut(undo=_step_out(state.undo), redo=_step_out(state.redo))


@router.post("/undo")
def undo_step(use: Use, wanted: StepIn | None = None) -> TakenBackOut:
    """Take back the last change, or the step that is meant."""
    return _step(use, "undo", wanted)


@router.post("/redo")
def redo_step(use: Use, wanted: StepIn | None = None) -> TakenBackOut:
    """Do again what was taken back last, or the step that is meant."""
    return _step(use, "redo", wanted)


def _step(use: Services, stack: Stack, wanted: StepIn | None) -> TakenBackOut:
    taken = history.step_back(use, stack, wanted.id if wanted else None)
    now = undo_state(use)
    return TakenBackOut(name=taken.name, left=list(taken.left), undo=now.undo, redo=now.redo)


def _step_out(step: Step | None) -> StepOut | None:
    return StepOut(id=step.id, name=step.name) if step else None
