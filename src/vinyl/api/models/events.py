"""What the server tells all windows as it happens."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, RootModel

from vinyl.api.models.jobs import JobOut
from vinyl.api.models.shared import Model
from vinyl.library.tables import Topic


class HelloEvent(Model):
    """The first event of a connection: which state of the library it begins with."""

    type: Literal["hello"] = "hello"
    revision: int


class ChangedEvent(Model):
    """The library is different from ``revision`` on. Without ``track_ids`` any track may be. What was done in
    the ``background`` may be shown a little later.
    """

    type: Literal["changed"] = "changed"
    revision: int
    topics: list[Topic]
    track_ids: list[int] | None
    background: bool


class JobEvent(Model):
    """A job has begun, come further, or ended."""

    type: Literal["job"] = "job"
    job: JobOut


class ReloadEvent(Model):
    """Too much has happened to tell it all: everything may be different."""

    type: Literal["reload"] = "reload"


class ServerEvent(
    RootModel[Annotated[HelloEvent | ChangedEvent | JobEvent | ReloadEvent, Field(discriminator="type")]]
):
    """An event under /api/events. What a request has changed also comes with its answer, as
    X-Vinyl-Changed."""
