"""How likely a file is the one that a track had: by its sound, its size and length, its name and its tags."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

# A file that was only moved keeps its length to the sample; one that was made anew may differ by its padding.
SAME_LENGTH_S, LIKE_LENGTH_S = 0.1, 1.5
# From here on something is proposed at all.
LEAST_LIKELY = 0.5


@dataclass(frozen=True, slots=True)
class FileTraits:
    """What tells files apart. ``file_key`` and ``name_key`` are those of vinyl.core.naming."""

    sampled_hash: str | None
    size_bytes: int
    duration_s: float
    file_key: str
    name_key: str


@dataclass(frozen=True, slots=True)
class Likeness:
    """From 0 to 1, with what speaks for it."""

    confidence: float
    evidence: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Match:
    """A lost file (its place in the list that was given) and the file that is most likely it."""

    lost: int
    found: int
    likeness: Likeness


def compare(lost: FileTraits, found: FileTraits) -> Likeness:
    """How likely a file is the lost one."""
    apart_s = abs(lost.duration_s - found.duration_s)
    same_name = lost.file_key == found.file_key
    same_words = bool(lost.name_key) and lost.name_key == found.name_key
    if lost.sampled_hash and lost.sampled_hash == found.sampled_hash:
        return Likeness(1.0, ("the same sound",))
    evidence = []
    if lost.size_bytes == found.size_bytes:
        evidence.append("the same size")
    if apart_s <= SAME_LENGTH_S:
        evidence.append("the same length")
    elif apart_s <= LIKE_LENGTH_S:
        evidence.append("nearly the same length")
    if same_name:
        evidence.append("the same name")
    if same_words:
        evidence.append("the same artist and title")
    same_size = lost.size_bytes == found.size_bytes
    return Likeness(_confidence(same_size, apart_s, same_name, same_words), tuple(evidence))


def _confidence(same_size: bool, apart_s: float, same_name: bool, same_words: bool) -> float:
    """Weights by judgement, not fitted: a name or tags alone say little without the length."""
    if apart_s > LIKE_LENGTH_S:
        return 0.3 if same_name and same_words else 0.0
    told = 0.45 * same_name + 0.45 * same_words
    if not told:
        return 0.6 if same_size and apart_s <= SAME_LENGTH_S else 0.0
    return min(0.99, told + (0.3 if apart_s <= SAME_LENGTH_S else 0.1) + 0.2 * same_size)


def match_all(lost: Sequence[FileTraits], found: Sequence[FileTraits]) -> list[Match]:
    """The most likely file for each lost one, each file once, the surest first.

    Only files that share a sound, a name or a size with a lost one are compared.
    """
    alike: dict[object, list[int]] = {}
    for place, traits in enumerate(found):
        for trait in _traits(traits):
            alike.setdefault(trait, []).append(place)
    pairs = [
        Match(number, place, likeness)
        for number, traits in enumerate(lost)
        for place in {place for trait in _traits(traits) for place in alike.get(trait, ())}
        if (likeness := compare(traits, found[place])).confidence >= LEAST_LIKELY
    ]
    pairs.sort(key=lambda match: (-match.likeness.confidence, match.lost, match.found))
    taken_lost: set[int] = set()
    taken_found: set[int] = set()
    best = []
    for match in pairs:
        if match.lost not in taken_lost and match.found not in taken_found:
            taken_lost.add(match.lost)
            taken_found.add(match.found)
            best.append(match)
    return best


def _traits(traits: FileTraits) -> Iterable[tuple[str, object]]:
    """What a file is looked up by."""
    yield "size", traits.size_bytes
    if traits.sampled_hash:
        yield "sound", traits.sampled_hash
    if traits.file_key:
        yield "file", traits.file_key
    if traits.name_key:
        yield "name", traits.name_key
