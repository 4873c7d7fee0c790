"""Writing playlists in the open formats: M3U8, PLS, XSPF, and tables of values."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Mapping, Sequence
from typing import Literal
from urllib.parse import quote
from xml.sax.saxutils import escape

from vinyl.core.carrying.card import Card
from vinyl.core.carrying.words import UNWRITABLE
from vinyl.exchange.lists.cue_sheet import quoted
from vinyl.exchange.lists.m3u import as_line
from vinyl.exchange.lists.table import safe_cell
from vinyl.exchange.lists.text import one_line

Form = Literal["m3u8", "pls", "xspf", "cue", "csv"]
Columns = Literal["few", "usual", "all"]
SUFFIXES: Mapping[Form, str] = {"m3u8": ".m3u8", "pls": ".pls", "xspf": ".xspf", "cue": ".cue", "csv": ".csv"}
COLUMNS: Mapping[Columns, tuple[str, ...]] = {
    "few": ("artist", "title"),
    "usual": ("artist", "title", "album", "genre", "tempo", "key", "length", "year"),
    "all": (
        "artist", "title", "remixer", "album", "label", "catalogue", "genre", "grouping", "composer",
        "language", "isrc", "tempo", "key", "energy", "stars", "length", "year", "plays", "comment",
    ),
}  # fmt: skip


def write_list(
    form: Form, name: str, cards: Sequence[Card], columns: Columns = "usual", delimiter: str = ","
) -> str:
    """A list as the text of a file. Tables have the path in their last column."""
    writers: Mapping[Form, Callable[[], str]] = {
        "m3u8": lambda: _m3u8(name, cards),
        "pls": lambda: _pls(cards),
        "xspf": lambda: _xspf(name, cards),
        "cue": lambda: _cue_sheet(name, cards),
        "csv": lambda: _table(cards, columns, delimiter),
    }
    return writers[form]()


def _m3u8(name: str, cards: Sequence[Card]) -> str:
    lines = ["#EXTM3U", "#EXTENC:UTF-8", f"#PLAYLIST:{one_line(name)}"]
    for card in cards:
        lines += [f"#EXTINF:{_seconds(card) or -1},{said(card)}", as_line(card.path)]
    return "\n".join(lines) + "\n"


def _pls(cards: Sequence[Card]) -> str:
    lines = ["[playlist]"]
    for number, card in enumerate(cards, 1):
        lines += [f"File{number}={card.path}", f"Title{number}={said(card)}"]
        lines += [f"Length{number}={_seconds(card) or -1}"]
    return "\n".join([*lines, f"NumberOfEntries={len(cards)}", "Version=2"]) + "\n"


def _xspf(name: str, cards: Sequence[Card]) -> str:
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<playlist version="1" xmlns="http://xspf.org/ns/0/">',
        f" <title>{escape(UNWRITABLE.sub('', name))}</title>",
        " <trackList>",
    ]
    for card in cards:
        lines += ["  <track>", f"   <location>{escape(_uri(card.path))}</location>"]
        lines += [f"   <creator>{escape(card.words['artist'])}</creator>"] if "artist" in card.words else []
        lines += [f"   <title>{escape(card.words['title'])}</title>"] if "title" in card.words else []
        lines += [f"   <duration>{1000 * _seconds(card)}</duration>"] if _seconds(card) else []
        lines += ["  </track>"]
    return "\n".join([*lines, " </trackList>", "</playlist>"]) + "\n"


def _cue_sheet(name: str, cards: Sequence[Card]) -> str:
    lines = [f'TITLE "{quoted(name)}"']
    for number, card in enumerate(cards, 1):
        lines += [f'FILE "{card.path}" WAVE', f"  TRACK {number:02} AUDIO"]
        lines += [f'    TITLE "{quoted(card.words["title"])}"'] if "title" in card.words else []
        lines += [f'    PERFORMER "{quoted(card.words["artist"])}"'] if "artist" in card.words else []
        lines += ["    INDEX 01 00:00:00"]
    return "\n".join(lines) + "\n"


def _uri(path: str) -> str:
    if path[1:2] == ":":
        return "file:///" + quote(path.replace("\\", "/"), safe="/:")
    return ("file://" if path.startswith("/") else "") + quote(path, safe="/")


def _table(cards: Sequence[Card], columns: Columns, delimiter: str) -> str:
    names = COLUMNS[columns]
    out = io.StringIO()
    table = csv.writer(out, delimiter=delimiter, lineterminator="\r\n")
    table.writerow([*names, "path"])
    for card in cards:
        table.writerow([safe_cell(text) for text in (*(_cell(card, name) for name in names), card.path)])
    return out.getvalue()


def _cell(card: Card, name: str) -> str:
    text = card.words.get(name, "")
    if name == "length" and text:
        return f"{_seconds(card) // 60}:{_seconds(card) % 60:02}"
    return text


def _seconds(card: Card) -> int:
    return round(float(card.words.get("length", "0")))


def said(card: Card) -> str:
    """Artist and title as one line, as playlists have them."""
    return one_line(" - ".join(filter(None, (card.words.get(name) for name in ("artist", "title")))))
