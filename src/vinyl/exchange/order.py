"""What is to be carried, where to, and how: an order, as it is given, kept and worked off."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from vinyl.core.carrying.merging import Policy
from vinyl.core.carrying.options import Options, options_of, options_to
from vinyl.core.carrying.paths import System
from vinyl.core.carrying.traits import Name
from vinyl.core.foreign_paths import PathMapping


@dataclass(frozen=True, slots=True)
class Source:
    """Another library that tracks come from, in place of the own one."""

    target: Name
    place: str
    mappings: tuple[PathMapping, ...] = ()


@dataclass(frozen=True, slots=True)
class Order:
    """An order.

    ``lists`` are the lists that go, None for everything; ``tracks`` are single ones, without lists.
    ``policies`` say for parts that the other side has changed whether its own stay. ``onto_ms`` puts cues
    onto its own beats within so many milliseconds.
    """

    target: Name
    place: str
    system: System = "this one"
    mappings: tuple[PathMapping, ...] = ()
    options: Options = Options()  # noqa: RUF009 - frozen
    lists: tuple[int, ...] | None = None
    tracks: tuple[int, ...] = ()
    changed_only: bool = False
    mirror: bool = False
    policies: Mapping[str, Policy] | None = None
    onto_ms: float | None = None
    destination_id: int | None = None
    source: Source | None = None


def order_to(order: Order) -> dict[str, Any]:
    """The plain form of an order, as a job keeps it."""
    return {**asdict(order), "options": options_to(order.options)}


def order_of(kept: Mapping[str, Any]) -> Order:
    """An order from its plain form.

    Raises:
        OptionError: for choices that there are not.
    """
    source = kept.get("source")
    return Order(
        **{
            **kept,
            "mappings": _mappings(kept.get("mappings", ())),
            "options": options_of(kept.get("options") or {}),
            "lists": None if kept.get("lists") is None else tuple(kept["lists"]),
            "tracks": tuple(kept.get("tracks", ())),
            "source": source and Source(**{**source, "mappings": _mappings(source.get("mappings", ()))}),
        }
    )


def _mappings(kept: Any) -> tuple[PathMapping, ...]:
    return tuple(PathMapping(each["there"], each["here"]) for each in kept)
