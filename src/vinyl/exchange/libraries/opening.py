"""Which files a library of a kind consists of, and its reader."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from vinyl.core.carrying.traits import PLAYLISTS, Name
from vinyl.exchange.libraries import reedbank, saltmarsh, tidewrack, vinyl
from vinyl.exchange.libraries.model import Place, Reader
from vinyl.exchange.libraries.vinyl import VinylReader

NAMES = {
    "reedbank": f"vinyl{reedbank.SUFFIX}",
    "saltmarsh": f"vinyl{saltmarsh.SUFFIX}",
    "vinyl": f"collection{vinyl.SUFFIX}",
}


# Playlists are files each; none of them stands for all.
NO_FILE = ".no-such-library"


def place_of(target: Name, path: Path) -> Place:
    """Where a library lies that is said to be at a path; a folder stands for the usual file in it."""
    if target in PLAYLISTS:
        return Place(path / NO_FILE, path)
    if target == "tidewrack":
        folder = path.parent if path.name == tidewrack.HEAD_FILE else path
        return Place(folder / tidewrack.HEAD_FILE, folder)
    if path.is_dir():
        path = path / NAMES[target]
    return Place(path, path.parent)


def open_library(target: Name, place: Place, may_read: Callable[[Path], bool] = lambda path: True) -> Reader:
    """A library for reading; what is wrong with it is said when its cards are asked for."""
    if target == "reedbank":
        return reedbank.ReedbankReader(place.opened)
    if target == "vinyl":
        return VinylReader(place.opened)
    if target == "saltmarsh":
        return saltmarsh.SaltmarshReader(place.opened)
    return tidewrack.TidewrackReader(place.base, may_read)


def kind_of(path: Path) -> Name | None:
    """Which kind of library a path holds, by its name."""
    name = path.name.lower()
    if name.endswith(reedbank.SUFFIX):
        return "reedbank"
    if name.endswith(saltmarsh.SUFFIX):
        return "saltmarsh"
    if name.endswith(vinyl.SUFFIX):
        return "vinyl"
    if name == tidewrack.HEAD_FILE or (path / tidewrack.HEAD_FILE).is_file():
        return "tidewrack"
    return None
