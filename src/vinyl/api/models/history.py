"""What undo and redo would take back."""

from __future__ import annotations

from vinyl.api.models.shared import Model


class UndoOut(Model):
    undo: str | None
    redo: str | None
