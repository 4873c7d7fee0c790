"""All of the bench, and its table."""

from __future__ import annotations

from itertools import chain
from pathlib import Path
from typing import Any

from vinyl.bench import agreement, librosa_side, rhythm, tonal
from vinyl.bench.demo_collection import measure_demo
from vinyl.bench.importing import measure_importing
from vinyl.bench.library import measure_library
from vinyl.bench.likeness import measure_likeness
from vinyl.bench.material import (
    asked_pieces,
    detuned_pieces,
    listening_folder,
    rhythm_pieces,
    tonal_pieces,
    tuned_pieces,
)
from vinyl.bench.speed import measure_speed
from vinyl.bench.sticks import measure_sticks
from vinyl.bench.twins import measure_twins


def run_bench(demo: Path, parts: tuple[str, ...]) -> dict[str, Any]:
    """Figures by part; without the development set only those of made-up pieces."""
    folder = listening_folder()
    figures: dict[str, Any] = {"development set": str(folder is not None).lower()}
    if "rhythm" in parts:
        trackers = {"Vinyl": rhythm.ours, "librosa": librosa_side.track_beats}
        figures["rhythm"] = rhythm.measure_rhythm(rhythm_pieces(folder), trackers)
    if "key" in parts:
        finders = {"Vinyl": tonal.ours, "librosa": librosa_side.find_key}
        figures["key"] = tonal.measure_keys(chain(tonal_pieces(folder), detuned_pieces(folder)), finders)
        tuned = tonal.measure_keys(tuned_pieces(folder), {"Vinyl": tonal.ours})
        figures["key"]["Vinyl"].update(tuned["Vinyl"])
    if "agreement" in parts:
        asked = {"Vinyl": agreement.ours, "librosa": librosa_side.hear}
        figures["agreement"] = agreement.measure_agreement(asked_pieces(folder), asked)
    if "likeness" in parts:
        figures["likeness"] = measure_likeness(folder)
    if "twins" in parts:
        figures["twins"] = measure_twins(folder)
    if "speed" in parts:
        figures["speed"] = measure_speed()
    if "library" in parts:
        figures["library"] = measure_library()
    if "import" in parts:
        figures["import"] = measure_importing()
    if "sticks" in parts:
        figures["sticks"] = measure_sticks()
    if "demo" in parts:
        figures["demo collection"] = measure_demo(demo)
    return figures


def as_table(figures: dict[str, Any]) -> str:
    """Markdown: a table for each part, kinds of pieces as columns where there are kinds."""
    lines: list[str] = []
    for part in ("rhythm", "key", "agreement"):
        for name, kinds in figures.get(part, {}).items():
            lines += [f"\n### {part.capitalize()}, {name}\n", *_grid(kinds)]
    for part in ("likeness", "twins", "speed", "library", "import", "sticks", "demo collection"):
        if part in figures:
            lines += [f"\n### {part.capitalize()}\n", "| figure | value |", "|---|---|"]
            lines += [f"| {name} | {_cell(value)} |" for name, value in figures[part].items()]
    return "\n".join(lines)


def _grid(kinds: dict[str, dict[str, Any]]) -> list[str]:
    names = list(kinds)
    figures = [
        name
        for name in next(iter(kinds.values()))
        if any(row[name] not in (None, {}) for row in kinds.values())
    ]
    head = ["| figure | " + " | ".join(names) + " |", "|---" * (len(names) + 1) + "|"]
    return head + [
        f"| {figure} | " + " | ".join(_cell(kinds[name][figure]) for name in names) + " |"
        for figure in figures
    ]


def _cell(value: Any) -> str:
    if value is None:
        return "–"
    if isinstance(value, dict):
        return "; ".join(f"{name}: {_cell(inner)}" for name, inner in value.items())
    return str(value)
