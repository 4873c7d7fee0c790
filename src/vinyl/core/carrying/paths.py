"""Where a track's file is said to lie in another library: beginnings of paths put for others."""

from __future__ import annotations

import posixpath
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from vinyl.core.carrying.outcomes import Outcome
from vinyl.core.foreign_paths import PathMapping

System = Literal["this one", "windows", "other"]
LONGEST_WINDOWS = 259
# Names of a path, the empty one before the first slash too, within which beginnings are offered.
DEEPEST = 5
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


def beginnings(folders: Mapping[str, int], most: int = 12) -> list[str]:
    """Folders that whole trees of tracks begin with, those with most tracks first; of folders within each
    other that hold the same tracks the innermost.

    Args:
        folders: how many tracks lie in each folder.
    """
    counts: Counter[str] = Counter()
    for folder, count in folders.items():
        parts = folder.split("/")
        for depth in range(2, min(len(parts), DEEPEST) + 1):
            counts["/".join(parts[:depth])] += count
    whole_within = {
        posixpath.dirname(each) for each in counts if counts[each] == counts[posixpath.dirname(each)]
    }
    best = [each for each in counts if each not in whole_within]
    return sorted(best, key=lambda each: (-counts[each], each))[:most]


def _problem(path: str, system: System) -> str:
    if system != "windows":
        return ""
    if len(path) > LONGEST_WINDOWS:
        return f"{len(path)} characters are more than many programs there can open"
    name = path[2:] if path[1:2] == ":" else path
    if bad := sorted(NOT_ON_WINDOWS.intersection(name)):
        return f"a name with {' '.join(bad)} cannot be there"
    return ""
