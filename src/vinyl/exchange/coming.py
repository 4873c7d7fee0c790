"""What another library says of a track that is not what is here: the differences that are reviewed."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any, Literal

from vinyl.core.carrying.collection import Cue, Track
from vinyl.core.carrying.grids import worst_error_s
from vinyl.core.carrying.steps import said_grid
from vinyl.core.rhythm.tempo_map import TempoMap, anchors_to
from vinyl.library.locks import HOLDS
from vinyl.library.values import FIELDS, Field, Source

Way = Literal["rule", "theirs", "ours", "add"]
SAME_CUE_S = 0.005
SAME_GRID_S = 0.002
HALF = 0.01
# Fields that are compared text by text; the tempo comes with the grid.
COMPARED: tuple[Field, ...] = tuple(
    field for field in FIELDS if field not in ("grid", "tempo", "structure", "chapters", "quality", "gain")
)
KIND_OF: Mapping[str, str] = {
    "key": "key", "stars": "stars", "energy": "energy", "plays": "plays", "colour": "colours",
    "comment": "comment", "marks": "marks", "explicit": "marks", "never again": "marks", "wanted": "marks",
}  # fmt: skip

Held = Mapping[Field, Mapping[Source, str]]
Rules = Mapping[Field, Sequence[Source]]


@dataclass(frozen=True, slots=True)
class Difference:
    """A value there that is not the one here.

    ``rule`` is what it will be by the rules of sources; ``ways`` are the answers that there are, ``choice``
    the one proposed. ``value`` is what is taken, as JSON.
    """

    kind: str
    what: str
    here: str
    there: str
    rule: str
    note: str
    choice: Way
    ways: tuple[Way, ...]
    value: str


def differences(
    ours: Track, theirs: Track, held: Held, rules: Rules, parts: frozenset[str]
) -> Iterator[Difference]:
    """What is different of a track.

    Args:
        held: what each source says here, by field.
        rules: the order of sources, by field.
        parts: which parts of it (vinyl.core.carrying.merging) are compared.
    """
    if "texts" in parts or "plays" in parts:
        for field in COMPARED:
            if ("plays" if field == "plays" else "texts") in parts and (text := theirs.values.get(field)):
                yield from _value(field, text, ours, held.get(field, {}), rules[field])
    if "texts" in parts:
        yield from _tags(ours, theirs)
    if "grid" in parts and theirs.grid is not None:
        yield from _grid(ours, theirs.grid, held.get("grid", {}), rules["grid"])
    if "cues" in parts and theirs.cues:
        yield from _cues(ours, theirs.cues)


def _value(
    field: Field, text: str, ours: Track, held: Mapping[Source, str], order: Sequence[Source]
) -> Iterator[Difference]:
    here = ours.values.get(field, "")
    if field == "plays":
        yield from _plays(text, here, held, order)
        return
    if text == here or held.get("another library") == text:
        return
    winner = _winner({**held, "another library": text}, order)
    rule = text if winner == "another library" else here
    locked = any(field in HOLDS[part] for part in ours.locks)  # type: ignore[index]
    note = "" if winner == "another library" else f"yours stays: {_said(winner)}"
    ways: tuple[Way, ...] = ("rule", "ours") if locked else ("rule", "theirs", "ours")
    value = json.dumps({"field": field, "text": text}, ensure_ascii=False)
    yield Difference(
        KIND_OF.get(field, "texts"), field, here, text, rule, note, "rule", ways, value
    )  # fmt: skip


def _plays(text: str, here: str, held: Mapping[Source, str], order: Sequence[Source]) -> Iterator[Difference]:
    """More plays there than here; what the Logbook knows of is not counted twice."""
    if not text.isdecimal() or int(text) <= int(here or 0):
        return
    counted = next((held[source] for source in order if source in held), "0")
    noted = int(here or 0) - int(counted or 0)
    value = json.dumps({"field": "plays", "text": str(int(text) - noted)})
    yield Difference("plays", "plays", here, text, text, "", "rule", ("rule", "ours"), value)


def _winner(held: Mapping[Source, str], order: Sequence[Source]) -> Source:
    return next(source for source in order if source in held)


def _said(source: Source) -> str:
    words = {"locked": "it is locked", "by hand": "set by hand", "analysis": "analysis comes first",
             "file tag": "the file’s tag comes first"}  # fmt: skip
    return words.get(source, source)


def _tags(ours: Track, theirs: Track) -> Iterator[Difference]:
    missing = [tag for tag in theirs.tags if tag not in ours.tags]
    if missing:
        here, there = ", ".join(ours.tags), ", ".join(theirs.tags)
        locked = "tags" in ours.locks
        yield Difference(
            "tags", "tags", here, there, here if locked else ", ".join((*ours.tags, *missing)),
            "yours stay: they are locked" if locked else "", "ours" if locked else "add",
            ("ours",) if locked else ("add", "ours"), json.dumps(missing, ensure_ascii=False),
        )  # fmt: skip


def _grid(
    ours: Track, grid: TempoMap, held: Mapping[Source, str], order: Sequence[Source]
) -> Iterator[Difference]:
    mine = ours.grid
    if mine is not None and worst_error_s(mine, grid, ours.duration_s) <= SAME_GRID_S:
        return
    winner = _winner({**held, "another library": "there"}, order)
    here = said_grid(mine) if mine else ""
    wins = winner == "another library"
    warning = _warning(mine, grid)
    locked = "grid" in ours.locks
    notes = [warning] if warning else []
    notes += [] if wins else [f"yours stays: {_said(winner)}"]
    value = {"anchors": anchors_to(grid), "beats_per_bar": grid.beats_per_bar, "bpm": grid.bpm}
    ways: tuple[Way, ...] = ("rule", "ours") if locked else ("rule", "theirs", "ours")
    rule = said_grid(grid) if wins else here
    choice: Way = "ours" if warning else "rule"
    yield Difference(
        "grid", "grid", here, said_grid(grid), rule, "; ".join(notes), choice, ways, json.dumps(value)
    )  # fmt: skip


def _warning(mine: TempoMap | None, grid: TempoMap) -> str:
    """What is likely to be wrong with a grid that comes."""
    if mine is None:
        return ""
    for factor, words in ((0.5, "half of your tempo"), (2.0, "double your tempo")):
        if abs(grid.bpm / mine.bpm / factor - 1.0) < HALF:
            return words
    if grid.kind == "steady" and mine.kind != "steady":
        return f"one tempo, where yours is {mine.kind}"
    return ""


def _cues(ours: Track, cues: Sequence[Cue]) -> Iterator[Difference]:
    new = [cue for cue in cues if not any(_same(cue, each) for each in ours.cues)]
    mine_only = [cue for cue in ours.cues if not any(_same(cue, each) for each in cues)]
    other = [cue for cue in cues if any(_same(cue, each) and _changed(cue, each) for each in ours.cues)]
    if not new and not other:
        return
    locked = "cues" in ours.locks
    said = [f"{_are(new)} not here"] if new else []
    said += [f"{_are(other)} called or coloured otherwise"] if other else []
    said += [f"{_are(mine_only, ' of yours')} not there"] if mine_only and ours.cues else []
    note = "yours stay: they are locked" if locked else ", ".join(said)
    choice: Way = "ours" if locked or not new else "add" if ours.cues else "theirs"
    ways: tuple[Way, ...] = ("ours",) if locked else ("add", "theirs", "ours")
    rule = said_cues(ours.cues) if locked else said_cues((*ours.cues, *new))
    value = {"all": [asdict(cue) for cue in cues], "new": [asdict(cue) for cue in new]}
    yield Difference(
        "cues", "cues and loops", said_cues(ours.cues), said_cues(cues), rule, note, choice, ways,
        json.dumps(value, ensure_ascii=False),
    )  # fmt: skip


def _are(cues: Sequence[Cue], whose: str = "") -> str:
    return f"{len(cues)}{whose} {'is' if len(cues) == 1 else 'are'}"


def _same(one: Cue, other: Cue) -> bool:
    return one.is_loop == other.is_loop and abs(one.position_s - other.position_s) <= SAME_CUE_S


def _changed(there: Cue, here: Cue) -> bool:
    """Whether a cue there says something else; what it does not say does not count."""
    pad = there.pad is not None and here.pad is not None and there.pad != here.pad
    length = abs((there.length_s or 0.0) - (here.length_s or 0.0)) > SAME_CUE_S
    return pad or length or bool(there.label and there.label != here.label)


def said_cues(cues: Sequence[Cue]) -> str:
    """Cues in a few words: how many, and the first names."""
    if not cues:
        return "none"
    loops = sum(cue.is_loop for cue in cues)
    points = len(cues) - loops
    parts = [f"{points} cue{'s' if points != 1 else ''}"] if points else []
    parts += [f"{loops} loop{'s' if loops != 1 else ''}"] if loops else []
    return " and ".join(parts)


def plain(value: str) -> Any:
    """What is taken, from how it is kept."""
    return json.loads(value)
