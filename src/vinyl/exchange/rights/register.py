"""The register of rights that Vinyl ships with: a stand-in, made up like the tracks of the demo collection.

Another register takes its place by the same interface.
"""

from __future__ import annotations

from collections.abc import Mapping
from importlib.resources import files
from typing import Protocol

from vinyl.core.planning.clearance import Ruling
from vinyl.exchange.rights.table import Recording, read_rulings

TABLE = "tarnhaven.csv"


class Register(Protocol):
    """Somebody who can be asked about rights."""

    @property
    def name(self) -> str:
        """Who is asked, as people call it."""

    def ask(self, recordings: Mapping[int, Recording]) -> dict[int, Ruling]:
        """What is known of these tracks, by their ids; those that it does not know are left out."""


class StandInRegister:
    """The made-up register of the harbour town."""

    name = "Tarnhaven register (made up)"

    def ask(self, recordings: Mapping[int, Recording]) -> dict[int, Ruling]:
        """What is known of these tracks, by their ids; those that it does not know are left out."""
        text = files("vinyl.exchange.rights").joinpath(TABLE).read_text("utf-8")
        table = read_rulings(text, self.name)
        found = {track_id: table.of(each) for track_id, each in recordings.items()}
        return {track_id: ruling for track_id, ruling in found.items() if ruling is not None}
