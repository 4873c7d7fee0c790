"""What the other programs would show of a library: its lists, and a track's cues and bars over its sound."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from html import escape
from itertools import islice
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

import av
import numpy as np
from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import HTMLResponse
from starlette.routing import Route

from vinyl.standin_libraries import reedbank, saltmarsh, tidewrack
from vinyl.standin_libraries.sound import samples

MOST_TRACKS = 300
# Bars that are drawn, and the shortest that a bar can be.
MOST_BARS, SHORTEST_BAR_S = 5000, 0.1
WIDTH, HEIGHT = 1160, 150
# How many of a format's units a second has, and whether its positions count the codec's padding.
UNITS = {"reedbank": (1000, True), "saltmarsh": (1, False), "tidewrack": (44100, False)}
STEP_UNITS = {"reedbank": 1_000_000, "saltmarsh": 1, "tidewrack": 44100}
STYLE = (
    "body{font:15px/1.45 sans-serif;margin:1.2rem 2rem;max-width:1180px}td,th{padding:.1rem .7rem;"
    "text-align:left}table{border-collapse:collapse}tr{border-top:1px solid #bbb}input{width:34rem}"
    "text{font-size:11px}"
)
PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>{title}</title><style>{style}</style>
<h1>{title}</h1>
<form><label>Library <input name="library" value="{library}"></label> <button>Open</button></form>
{body}</html>"""

Told = Mapping[str, Any]


def reader_app(
    may_read: Callable[[Path], bool],
    here: Callable[[], Callable[[str], str]],
    run: Callable[..., tuple[str, int]],
) -> Starlette:
    """An application that shows libraries.

    Args:
        may_read: whether a file may be opened.
        here: gives what tells where a path of a library lies on this computer.
        run: calls a function in a process of its own, as another program has one.
    """

    async def page(request: Request) -> HTMLResponse:
        library = request.query_params.get("library", "")
        number = request.query_params.get("track", "")
        body, status = await run_in_threadpool(run, shown_body, library, number, may_read, here())
        title = f"The other side: {kind_of(Path(library))}" if library and status == 200 else "The other side"
        shown = {"title": escape(title), "library": escape(library, quote=True), "body": body}
        return HTMLResponse(PAGE.format(style=STYLE, **shown), status)

    return Starlette(routes=[Route("/", page)])


def kind_of(path: Path) -> str:
    """Which program a file or folder is of, by its name."""
    if path.name.endswith(".reedbank.xml"):
        return "reedbank"
    return "saltmarsh" if path.name.endswith(".saltmarsh.db") else "tidewrack"


def shown_body(
    library: str, number: str, may_read: Callable[[Path], bool], here: Callable[[str], str]
) -> tuple[str, int]:
    """What is shown of a library, or of one of its tracks, and the status that goes with it."""
    if not library:
        return "<p>Name a Reedbank document, a Saltmarsh database, or a folder of Tidewrack.</p>", 200
    path = Path(library)
    try:
        if not may_read(path):
            return "<p>This may not be read.</p>", 403
        if not path.is_file() and not path.is_dir():
            return "<p>There is no library at this place.</p>", 404
        if number.isdecimal():
            told = next(islice(_tracks(path), int(number), None))
            return _track(path, told, may_read, here), 200
        return "".join((*_lists(path), *_table(path))), 200
    except Exception as error:  # another program's file may hold anything
        return f"<p>This library cannot be read: {escape(str(error) or type(error).__name__)}.</p>", 422


def _tracks(path: Path) -> Iterator[Told]:
    readers = {"reedbank": reedbank.tracks, "saltmarsh": saltmarsh.tracks, "tidewrack": tidewrack.tracks}
    return readers[kind_of(path)](path)


def _lists(path: Path) -> Iterator[str]:
    readers = {"reedbank": reedbank.lists, "saltmarsh": saltmarsh.lists, "tidewrack": tidewrack.lists}

    def items(lists: list[dict[str, Any]]) -> str:
        said = (
            f"<li>{escape(each['name'])}"
            + (items(each["lists"]) if "lists" in each else f" ({len(each['tracks'])})")
            for each in lists
        )
        return f"<ul>{''.join(said)}</ul>"

    yield "<h2>Lists</h2>" + items(readers[kind_of(path)](path))


def _table(path: Path) -> Iterator[str]:
    yield "<h2>Tracks</h2><table><tr><th>Title<th>Artist<th>Key<th>Tempo<th>Cues"
    for number, told in enumerate(islice(_tracks(path), MOST_TRACKS)):
        words, steps = told["words"], told["steps"]
        link = "?" + urlencode({"library": str(path), "track": number})
        bpm = f"{steps[0][2]:.2f}" if steps else ""
        yield (
            f'<tr><td><a href="{escape(link)}">{escape(words.get("title", told["path"]))}</a>'
            f"<td>{escape(words.get('artist', ''))}<td>{escape(words.get('key', ''))}<td>{bpm}"
            f"<td>{len(told['points'])}"
        )
    yield "</table>"


def _track(path: Path, told: Told, may_read: Callable[[Path], bool], here: Callable[[str], str]) -> str:
    kind = kind_of(path)
    per_second, counts_padding = UNITS[kind]
    rows = "".join(
        f"<tr><td>{bank} {escape(str(place))}<td>{at / per_second:.3f} s<td>{escape(name)}"
        f"<td>{f'{length / per_second:.3f} s' if length else ''}"
        for bank, place, at, length, name, _, _ in told["points"]
    )
    words = "".join(f"<tr><td>{escape(name)}<td>{escape(text)}" for name, text in told["words"].items())
    picture = _picture(path, told, kind, counts_padding, may_read, here)
    return f"<p>{escape(told['path'])}</p>{picture}<table>{rows}</table><h2>Words</h2><table>{words}</table>"


def _picture(
    path: Path,
    told: Told,
    kind: str,
    counts_padding: bool,
    may_read: Callable[[Path], bool],
    here: Callable[[str], str],
) -> str:
    """The sound as this program hears it, with its cues and the first beats of its bars."""
    file = Path(here(told["path"])) if kind == "reedbank" else _base(path) / told["path"]
    if not may_read(file) or not file.is_file():
        return "<p>Its file is not on this computer.</p>"
    try:
        heard, rate = samples(file, counts_padding)
    except av.FFmpegError as error:
        return f"<p>Its file cannot be heard: {escape(str(error))}.</p>"
    if not heard.size:
        return "<p>Its file is silent.</p>"
    seconds = len(heard) / rate
    parts = np.array_split(np.abs(heard), WIDTH)
    tall = [HEIGHT / 2 * float(part.max(initial=0.0)) for part in parts]
    wave = "".join(f"M{x} {HEIGHT / 2 - t:.1f}V{HEIGHT / 2 + t:.1f}" for x, t in enumerate(tall))
    per_second = UNITS[kind][0]
    marks = "".join(
        f'<path stroke="#a02010" d="M{WIDTH * at / per_second / seconds:.2f} 0V{HEIGHT}"/>'
        f'<text x="{WIDTH * at / per_second / seconds + 3:.2f}" y="11">{escape(str(place))}</text>'
        for _, place, at, *_ in told["points"]
    )
    bars = "".join(f"M{WIDTH * at / seconds:.2f} {HEIGHT - 8}V{HEIGHT}" for at in _bars(told, kind, seconds))
    return (
        f'<svg width="{WIDTH}" height="{HEIGHT}" role="img" aria-label="Its sound, cues and bars">'
        f'<path stroke="#567" d="{wave}"/><path stroke="#036" d="{bars}"/>{marks}</svg>'
    )


def _base(path: Path) -> Path:
    return path if kind_of(path) == "tidewrack" and path.is_dir() else path.parent


def _bars(told: Told, kind: str, seconds: float) -> Iterator[float]:
    """Starts of bars in seconds: between two steps evenly, after the last at its tempo."""
    steps = [(at / STEP_UNITS[kind], beat, bpm) for at, beat, bpm in told["steps"]]
    for (at, beat, bpm), after in zip(steps, [*steps[1:], None], strict=True):
        pace = (after[0] - at) / (after[1] - beat) if after else 60 / bpm
        length = pace * told["beats_per_bar"]
        if length < SHORTEST_BAR_S:
            raise ValueError("its beats run backwards, or faster than any music")
        first = at + (-beat % told["beats_per_bar"]) * pace
        for number in range(MOST_BARS):
            time = first + number * length
            if time >= min(after[0] if after else seconds, seconds):
                break
            yield time
