"""Where a track's file is said to lie in another library: beginnings of paths put for others."""

from __future__ import annotations

import posixpath
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from vinyl.core.carrying.outcomes import Outcome
from vinyl.core.foreign_paths import PathMapping

System = Literal["this one", "windows", "other"]
LONGEST_WINDOWS = 259
NOT_ON_WINDOWS = frozenset('<>:"|?*')


@dataclass(frozen=True, slots=True)
class Way:
    """How paths are written there.

    ``base`` is the folder that relative paths start from, empty where they are whole.
    """

    system: System = "this one"
    mappings: tuple[PathMapping, ...] = ()
    base: str = ""


THIS_WAY = Way()


def path_there(path: str, way: Way) -> tuple[str, Outcome]:
    """A path as it is written there, with what became of it."""
    there, mapping = mapped(path, way.mappings)
    if way.base:
        there = posixpath.relpath(there, way.base)
        return there, Outcome("paths", "changed", "path", path, there, "relative to where the library lies")
    if mapping is None:
        why = "none of the beginnings that are put for others is its own" if way.mappings else ""
        return there, Outcome("paths", "as it is", "path", path, there, why)
    problem = _problem(there, way.system)
    why = "; ".join(filter(None, (f"{mapping.here} is {mapping.there} there", problem)))
    return there, Outcome("paths", "changed", "path", path, there, why)


def mapped(path: str, mappings: Sequence[PathMapping]) -> tuple[str, PathMapping | None]:
    """A path with the longest beginning of ours put for theirs, and which that was."""
    fitting = [each for each in mappings if path.startswith(each.here.rstrip("/") + "/")]
    if not fitting:
        return path, None
    best = max(fitting, key=lambda each: len(each.here))
    return best.there.replace("\\", "/").rstrip("/") + path[len(best.here.rstrip("/")) :], best


def _problem(path: str, system: System) -> str:
    if system != "windows":
        return ""
    if len(path) > LONGEST_WINDOWS:
        return f"{len(path)} characters are more than many programs there can open"
    name = path[2:] if path[1:2] == ":" else path
    if bad := sorted(NOT_ON_WINDOWS.intersection(name)):
        return f"a name with {' '.join(bad)} cannot be there"
    return ""
