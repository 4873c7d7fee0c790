"""What undo and redo would take back, and what was taken back."""

from __future__ import annotations

from vinyl.api.models.shared import Id, Model


class StepOut(Model):
    """A step that can be taken back."""

    id: int
    name: str


class StepIn(Model):
    """Which step is meant: the one that was shown, whatever has come on top of it meanwhile."""

    id: Id


class UndoOut(Model):
    """The steps that undo and redo would take next."""

    undo: StepOut | None
    redo: StepOut | None


class TakenBackOut(UndoOut):
    """What was taken back, and in words what of it stays because it was changed since."""

    name: str
    left: list[str]
